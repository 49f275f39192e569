import { change, pair } from "./picture.js";

export const shift = {
  name: "shift",
  hint: "Click a point in the picture, then where it belongs.",

  act(board, p) {
    pair(board, p, (a, b) => change(board, { right: b[0] - a[0], up: b[1] - a[1] }));
  },
};
