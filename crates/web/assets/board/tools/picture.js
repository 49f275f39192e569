// What the tools of the picture beneath have in common: two points, then one change to it.

/** The second of two points ends in `then(a, b)`. */
export const pair = (board, p, then) => {
  if (!board.draft) {
    board.draft = { points: [p] };
    return;
  }
  const [a] = board.draft.points;
  board.draft = { points: [a, p] };
  then(a, p);
};

/** Sends a change of the picture; the drawing of it is fetched. */
export const change = async (board, form) => {
  const response = await fetch(`/jobs/${board.job}/ground/picture/set`, {
    method: "POST",
    body: new URLSearchParams({ base: board.wire.seen, ...form }),
  }).catch(() => null);
  if (response?.ok) board.wire.catchUp();
  else {
    const body = response && (await response.json().catch(() => null));
    const why = response ? "Not possible." : "No connection: try again in a moment.";
    board.says.say(body?.message ?? why, "stop");
  }
  board.use("pick");
};
