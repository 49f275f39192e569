import { addThing } from "../things.js";

export const note = {
  name: "note",
  key: "n",
  hint: "Click where the note begins.",

  act(board, p) {
    board.entry.open("Note", null, "", (text) => {
      if (!text.trim()) return "Write a word or more.";
      addThing(board, { is: "note", at: p, text: text.trim().slice(0, 500) });
    });
  },
};
