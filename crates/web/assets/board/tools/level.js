import { change, pair } from "./picture.js";

export const level = {
  name: "level",
  hint: "Click two points in the picture that should be level.",

  act(board, p) {
    pair(board, p, (a, b) => change(board, { ax: a[0], ay: a[1], bx: b[0], by: b[1], level: "yes" }));
  },
};
