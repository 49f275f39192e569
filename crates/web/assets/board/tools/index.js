// The tools of the board, one object each in a file of its own:
//
//   name     as the buttons of the page call it
//   key      brings it up from the keyboard; tools that a form brings up have none
//   hint     what to do now, said when it is taken up; a function of the board where it depends
//   act      a click, or the end of a drag: act(board, p, hold), `p` snapped
//   begin    it is taken up
//   draws    `area` or `dry`: what kind of ground it draws
//   ring     the outline that is shown from the points set and the pointer: ring(points, p)
//   says     words beside the pointer while it draws: says(board, points, p)
//   typed    a digit was typed; without one the first corner is typed, then edges
//   finish   Enter, or the end of an outline
//   divides  even divisions of edges count for snapping
//   double   a double click with nothing in the hand: double(board, event)

import { area, dry } from "./ground.js";
import { cut } from "./cut.js";
import { head } from "./head.js";
import { height } from "./height.js";
import { level } from "./level.js";
import { measure } from "./measure.js";
import { note } from "./note.js";
import { pick } from "./pick.js";
import { pipe } from "./pipe.js";
import { place } from "./place.js";
import { plant } from "./plant.js";
import { rect } from "./rect.js";
import { scale } from "./scale.js";
import { shift } from "./shift.js";
import { tape } from "./tape.js";

const all = [pick, area, dry, head, pipe, place, plant, height, note, rect, tape, cut, measure, scale, level, shift];

export const TOOLS = new Map(all.map((tool) => [tool.name, tool]));
export const BY_KEY = new Map(all.filter((tool) => tool.key).map((tool) => [tool.key, tool.name]));
