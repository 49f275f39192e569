import { addThing } from "../things.js";

export const place = {
  name: "place",
  key: "p",
  hint: "Click to place the marker.",

  act(board, p) {
    addThing(board, { is: "place", kind: document.getElementById("place-kind").value, at: p });
  },
};
