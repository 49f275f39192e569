import { parseLength } from "../length.js";
import { newName } from "../shape.js";
import { addThing } from "../things.js";

export const height = {
  name: "height",
  key: "h",
  hint: "Click where the elevation was measured.",

  act(board, p) {
    board.entry.open("Elevation", null, "", (text) => {
      const metres = parseLength(text, board.units);
      if (metres === null) return "Enter an elevation, such as 2'6 or 0.75 m.";
      addThing(board, { is: "height", at: p, height: `${metres} m` }, newName("s"));
    });
  },
};
