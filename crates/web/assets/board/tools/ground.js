// Ground corner by corner: what is watered, and what stays dry. Some of the dry is drawn as a line.

import { distance } from "../shape.js";
import { addGround, isLine } from "../things.js";

const hint =
  "Click the corners, or point (or use arrow keys) and type a length. Click the first corner again or press Enter to close.";

const outline = (name, key) => ({
  name,
  key,
  hint,
  draws: name,

  act(board, p) {
    const points = (board.draft ??= { points: [] }).points;
    const fewest = isLine(name) ? 1 : 2;
    const closes = distance(p, points[0] ?? p) < board.reach() / 2;
    const again = distance(p, points.at(-1) ?? p) < board.reach() / 4;
    if (points.length >= fewest && (closes || again)) return this.finish(board);
    points.push(p);
    if (points.length > 1) board.says.say("");
  },

  finish(board) {
    const points = board.draft?.points ?? [];
    if (points.length < (isLine(name) ? 2 : 3)) {
      const few = isLine(name) ? "A line needs two points." : "An area needs three or more corners.";
      return board.says.say(few, "stop");
    }
    board.draft = null;
    addGround(board, name, points);
  },
});

export const area = outline("area", "a");
export const dry = outline("dry", "d");
