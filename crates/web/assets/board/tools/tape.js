// A point by two tapes: two known points, two lengths, then which of the two places. In the middle
// of an outline the corner found belongs to it.

import { distance } from "../shape.js";

export const tape = {
  name: "tape",
  key: "t",
  hint: "Click the first known point.",
  typed: () => {},

  begin(board, before) {
    board.tapes = { points: [], outline: before?.points ?? [] };
  },

  act(board, p) {
    const { tapes } = board;
    if (tapes.choices) return choose(board, p);
    tapes.points.push(p);
    board.draft = { points: tapes.points };
    if (tapes.points.length === 1) return board.says.say("Click the second known point.");
    board.entry.open("First tape", "Second tape", "", (a, b) => meet(board, a, b));
  },
};

const meet = async (board, a, b) => {
  const [[ax, ay], [bx, by]] = board.tapes.points;
  const query = new URLSearchParams({ ax, ay, a, bx, by, b });
  const response = await fetch(`/jobs/${board.job}/ground/tapes?${query}`).catch(() => null);
  const body = response && (await response.json().catch(() => null));
  if (!response?.ok) return body?.message ?? "No connection: try again in a moment.";
  board.tapes.choices = body.points;
  board.draft = { points: [], choices: body.points };
  board.says.say("The tapes cross in two places. Click the correct one.", "", true);
  board.preview();
};

const choose = (board, p) => {
  const { choices, outline } = board.tapes;
  const chosen = choices.reduce((a, b) => (distance(a, p) <= distance(b, p) ? a : b));
  board.use(board.lastDrawn);
  board.draft = { points: [...outline, chosen] };
  board.says.say("Corner placed. Continue drawing or use Two tapes again.");
};
