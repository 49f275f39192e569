import { newName } from "../shape.js";

const chosen = (id) => document.getElementById(id).value;

export const head = {
  name: "head",
  key: "e",
  hint: "Click where heads stand. On a corner or an edge they turn to the ground.",
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
