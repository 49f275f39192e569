// What is being drawn, as it is shown: points set, the pointer, the edge between, words beside it.

import { showLength } from "./length.js";
import { direction, distance, make, pathOf } from "./shape.js";

const dot = (over, [x, y], kind) => {
  const g = make("g", { class: `dot ${kind}`, transform: `translate(${x} ${-y})` }, over);
  make("circle", { r: kind === "choice" ? 9 : 5 }, make("g", { class: "px" }, g));
};

const words = (over, [x, y], dx, dy, text) => {
  const px = make("g", { class: "px" }, make("g", { transform: `translate(${x} ${-y})` }, over));
  make("text", { class: "tag", x: dx, y: dy }, px).textContent = text;
};

const edgeSays = (board, points, p) =>
  `${showLength(distance(points.at(-1), p), board.units)} · ${Math.round(direction(points.at(-1), p))}°`;

export const showDraft = (board) => {
  const { over, draft, pointer, tool } = board;
  over.replaceChildren();
  if (!pointer) return;
  const points = draft?.points ?? [];
  if (pointer.guide) make("path", { class: "guide", d: pathOf([pointer.guide], false) }, over);
  if (points.length) {
    const ring = tool.ring?.(points, pointer.p) ?? [...points, pointer.p];
    make("path", { class: "draft", d: pathOf([ring], Boolean(tool.closed)) }, over);
    words(over, pointer.p, 14, -12, (tool.says ?? edgeSays)(board, points, pointer.p));
  }
  for (const p of draft?.choices ?? []) dot(over, p, "choice");
  for (const p of points) dot(over, p, "placed");
  dot(over, pointer.p, `pointer ${pointer.kind}`);
  if (pointer.says) words(over, pointer.p, 12, -10, pointer.says);
};
