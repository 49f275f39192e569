// Things that are new on the board: shown at once as they were drawn; the server's drawing takes
// their place.

import { make, newName, pathOf } from "./shape.js";

/** Kinds that are drawn as lines, not as ground. */
const LINES = ["wall", "window"];

const kindOf = (draws) => document.getElementById(`${draws}-kind`).value;

/** True if what is drawn now is a line. */
export const isLine = (draws) => draws === "dry" && LINES.includes(kindOf("dry"));

/** Ground of the kind that is chosen, watered or dry. */
export const addGround = (board, draws, points) => {
  const kind = kindOf(draws);
  const open = isLine(draws);
  const region = { outline: points };
  const what =
    draws === "dry"
      ? { is: "dry", kind, form: open ? { line: points } : { region } }
      : { is: "area", kind, shape: region };
  const id = newName(draws === "dry" ? "d" : "a");
  const g = make(
    "g",
    {
      id: `t-${id}`,
      class: `thing ${draws} ${kind} waiting`,
      "data-id": id,
      "data-rings": JSON.stringify([points]),
      ...(open ? { "data-open": "yes" } : {}),
    },
    document.getElementById(open ? "y-lines" : "y-ground"),
  );
  make("path", { d: pathOf([points], !open) }, g);
  board.snaps.stale();
  addThing(board, what, id);
};

/** Anything else, at a point. */
export const addThing = (board, what, id = newName(what.is[0])) => {
  board.wire.send({ do: "add", thing: { id, what } });
  board.picked = new Set([id]);
};
