import { parseLength } from "../length.js";
import { newName } from "../shape.js";
import { addThing } from "../things.js";

export const height = {
  name: "height",
  key: "h",
  hint: "Click where the height was measured.",

  act(board, p) {
    board.entry.open("Height", null, "", (text) => {
      const metres = parseLength(text, board.units);
      if (metres === null) return "Write a height, e.g. 2'6 or 0.75 m.";
      addThing(board, { is: "height", at: p, height: `${metres} m` }, newName("s"));
    });
  },
};
