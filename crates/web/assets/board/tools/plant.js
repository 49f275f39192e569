import { distance, newName } from "../shape.js";
import { addThing } from "../things.js";

export const plant = {
  name: "plant",
  key: "l",
  hint: "Click for one plant, drag for a row.",
  drags: true,

  act(board, p, hold) {
    const start = board.draft?.points[0] ?? hold.p;
    board.draft = null;
    const canopy = board.units === "us" ? 4 * 0.3048 : 1.2;
    const count = Math.floor(distance(start, p) / canopy) + 1;
    const one = { is: "plant", canopy: `${canopy} m` };
    const row = hold.moved && count > 1;
    addThing(board, row ? { ...one, at: start, to: p, count } : { ...one, at: p }, newName("l"));
  },
};
