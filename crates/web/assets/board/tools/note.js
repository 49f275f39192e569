import { addThing } from "../things.js";

export const note = {
  name: "note",
  key: "n",
  hint: "Click to place the note.",

  act(board, p) {
    board.entry.open("Note", null, "", (text) => {
      if (!text.trim()) return "Enter some text.";
      addThing(board, { is: "note", at: p, text: text.trim().slice(0, 500) });
    });
  },
};
