import { change, pair } from "./picture.js";

export const scale = {
  name: "scale",
  hint: "Click two points in the picture a known distance apart.",

  act(board, p) {
    pair(board, p, (a, b) =>
      board.entry.open("Length between them", null, "", (apart) => {
        change(board, { ax: a[0], ay: a[1], bx: b[0], by: b[1], apart });
      }),
    );
  },
};
