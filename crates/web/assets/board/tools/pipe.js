// Pipe point by point: its ends join heads, valves, boxes, joints and other pipe that they come near.

import { distance, make, newName, pathOf } from "../shape.js";

export const pipe = {
  name: "pipe",
  key: "i",
  hint: "Click the start, each bend and the end. Click the end again or press Enter to finish.",

  act(board, p) {
    const points = (board.draft ??= { points: [] }).points;
    if (points.length > 1 && distance(p, points.at(-1)) < board.reach() / 4) return this.finish(board);
    points.push(p);
    if (points.length > 1) board.says.say("");
  },

  finish(board) {
    const way = board.draft?.points ?? [];
    if (way.length < 2) return board.says.say("A pipe needs two points.", "stop");
    board.draft = null;
    const [kind, id] = document.getElementById("pipe-of").value.split(":");
    const names = [newName("p"), newName("j"), newName("p"), newName("j"), newName("p")];
    const g = make("g", { class: "pipes waiting" }, document.getElementById("y-pipes"));
    make("path", { class: "run", d: pathOf([way], false) }, g);
    board.wire.send({ do: "lay-pipe", of: { [kind]: id }, way, new: names });
    board.picked = new Set([names[0]]);
  },
};
