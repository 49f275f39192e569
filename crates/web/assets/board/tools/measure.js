import { showLength } from "../length.js";
import { direction, distance } from "../shape.js";

export const measure = {
  name: "measure",
  key: "m",
  hint: "Click two points.",

  act(board, p) {
    if (!board.draft) {
      board.draft = { points: [p] };
      return;
    }
    const [a] = board.draft.points;
    const show = (metres) => showLength(metres, board.units);
    const [across, up] = [Math.abs(p[0] - a[0]), Math.abs(p[1] - a[1])];
    const straight = `${show(distance(a, p))}, ${Math.round(direction(a, p))}°`;
    board.says.say(`${straight} · ${show(across)} across, ${show(up)} up`, "", true);
    board.draft = null;
  },
};
