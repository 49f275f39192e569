import { newName } from "../shape.js";

const chosen = (id) => document.getElementById(id).value;

export const head = {
  name: "head",
  key: "e",
  hint: "Click to place heads. On a corner or edge they face into the area.",
  divides: true,

  act(board, p) {
    board.wire.send({
      do: "set-head",
      id: newName("h"),
      at: p,
      nozzle: chosen("head-nozzle"),
      group: newName("g"),
      valve: chosen("head-valve") || null,
    });
  },
};
