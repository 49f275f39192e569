import { parseLength, showLength } from "../length.js";
import { addGround } from "../things.js";

const corners = (a, b) => [a, [b[0], a[1]], b, [a[0], b[1]]];

const add = (board, ring) => {
  board.draft = null;
  addGround(board, board.lastDrawn, ring);
};

export const rect = {
  name: "rect",
  key: "r",
  hint: "Click a corner, then the opposite one. Or type both sides; without a corner it is placed next to the drawing.",
  closed: true,

  ring: (points, p) => (points.length === 1 ? corners(points[0], p) : [...points, p]),

  says: (board, [a], p) =>
    `${showLength(Math.abs(p[0] - a[0]), board.units)} × ${showLength(Math.abs(p[1] - a[1]), board.units)}`,

  act(board, p) {
    if (board.draft) add(board, corners(board.draft.points[0], p));
    else board.draft = { points: [p] };
  },

  /** Both lengths: from the corner that was set, else beside what is drawn. */
  typed(board, first) {
    const a = board.draft?.points[0] ?? board.beside();
    const to = (board.draft && board.pointer?.p) ?? [a[0] + 1, a[1] + 1];
    board.entry.open("Length", "Width", first, (along, up) => {
      const [w, h] = [parseLength(along, board.units), parseLength(up, board.units)];
      if (!w || !h) return "Enter both sides, such as 40' and 25'6.";
      add(board, corners(a, [a[0] + w * (to[0] < a[0] ? -1 : 1), a[1] + h * (to[1] < a[1] ? -1 : 1)]));
    });
  },
};
