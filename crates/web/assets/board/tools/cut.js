import { newName } from "../shape.js";

export const cut = {
  name: "cut",
  key: "x",
  hint: (board) =>
    board.picked.size === 1
      ? "Click where the split line starts, then where it ends, all the way across."
      : "Select an area to split first.",

  act(board, p) {
    if (board.picked.size !== 1) return board.says.say("Select an area to split first (V).", "stop");
    if (!board.draft) {
      board.draft = { points: [p] };
      return;
    }
    const [from] = board.draft.points;
    board.draft = null;
    const names = Array.from({ length: 12 }, () => newName("a"));
    board.wire.send({ do: "split", id: [...board.picked][0], from, to: p, new: names });
    board.use("pick");
  },
};
