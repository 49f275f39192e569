// Dragging what is there: handles, things, a box round several.

import { dragged, headDragged, sector, shapeGesture } from "./handles.js";
import { showLength } from "./length.js";
import { distance, edgeLength, isOpen, make, pathOf, pointOf, ringsOf } from "./shape.js";

const $ = (id) => document.getElementById(id);

export const dragging = (Base) =>
  class extends Base {
    dragHandle(event, hold) {
      const { element, handle } = hold;
      if (handle.dataset.handle === "corner") {
        const rings = ringsOf(element);
        const ring = rings[Number(handle.dataset.ring)];
        const i = Number(handle.dataset.index);
        const p = this.view.ground(event);
        const from = ring[(i + ring.length - 1) % ring.length];
        hold.p = event.altKey ? p : this.snaps.find(p, this.reach(), { from, skip: element.dataset.id }).p;
      } else hold.p = this.view.ground(event);
      if (ringsOf(element)) {
        const rings = dragged(element, handle, hold.p);
        element.querySelector("path").setAttribute("d", pathOf(rings, !isOpen(element)));
        this.lengthsBeside(
          rings[Number(handle.dataset.ring)],
          Number(handle.dataset.index),
          handle.dataset.handle === "corner",
        );
      } else {
        hold.figures = headDragged(element, handle, hold.p);
        element.querySelector(".throw").setAttribute("d", sector(pointOf(element), hold.figures));
        this.say(
          `${hold.figures.arc}° looking to ${Math.round(hold.figures.facing)}°, throw ${showLength(hold.figures.radius, this.units)}`,
          "",
          true,
        );
        const { facing, arc, radius } = hold.figures;
        const turned = this.headFigures(element).radius === radius;
        this.tryWater(
          turned
            ? { do: "turn-head", id: element.dataset.id, facing, arc }
            : { do: "throw-head", ids: [element.dataset.id], radius: `${radius} m` },
        );
      }
    }

    lengthsBeside(ring, i, corner) {
      const n = ring.length;
      const before = edgeLength(ring[(i + n - 1) % n], ring[i]);
      const after = edgeLength(ring[i], ring[(i + 1) % n]);
      this.say(
        corner
          ? `${showLength(before, this.units)} · ${showLength(after, this.units)}`
          : showLength(after, this.units),
        "",
        true,
      );
    }

    dropHandle(hold) {
      this.say("");
      const { element, handle } = hold;
      const id = element.dataset.id;
      if (ringsOf(element)) return this.wire.send(shapeGesture(element, handle, hold.p, this.reach() / 3));
      const { facing, arc, radius } = hold.figures;
      const was = this.headFigures(element);
      if (facing !== was.facing || arc !== was.arc) this.wire.send({ do: "turn-head", id, facing, arc });
      if (radius !== was.radius) this.wire.send({ do: "throw-head", ids: [id], radius: `${radius} m` });
    }

    dragThings(event, hold) {
      if (!hold.ids) {
        if (!this.picked.has(hold.id)) this.pick([hold.id]);
        hold.ids = [...this.picked];
        this.over.replaceChildren();
        hold.ends = hold.ids
          .flatMap((id) => (ringsOf($(`t-${id}`)) ?? [[pointOf($(`t-${id}`))]]).flat())
          .filter(Boolean);
      }
      const p = this.view.ground(event);
      let by = [p[0] - hold.p[0], p[1] - hold.p[1]];
      const head = hold.ids.length === 1 && $(`t-${hold.ids[0]}`);
      if (!event.altKey && head && head.classList.contains("head")) {
        // A head comes to corners, edges and their even divisions.
        const at = pointOf(head);
        const q = this.snaps.find([at[0] + by[0], at[1] + by[1]], this.reach(), {
          skip: hold.ids[0],
          divide: true,
        }).p;
        by = [q[0] - at[0], q[1] - at[1]];
      } else if (!event.altKey) {
        // A corner of what is moved that comes near an end elsewhere lies on it.
        let best = null;
        if (hold.ends.length < 400) {
          for (const end of hold.ends) {
            const to = [end[0] + by[0], end[1] + by[1]];
            for (const other of this.snaps.targets.ends) {
              if (hold.ids.includes(other[2])) continue;
              const d = distance(to, other);
              if (d < this.reach() && (!best || d < best.d))
                best = { d, by: [other[0] - end[0], other[1] - end[1]] };
            }
          }
        }
        if (best) by = best.by;
        else if (Math.abs(by[0]) < this.reach() / 2) by[0] = 0;
        else if (Math.abs(by[1]) < this.reach() / 2) by[1] = 0;
      }
      hold.by = by;
      for (const id of hold.ids) $(`t-${id}`)?.setAttribute("transform", `translate(${by[0]} ${-by[1]})`);
      this.say(`${showLength(by[0], this.units)} right, ${showLength(by[1], this.units)} up`, "", true);
      if (by[0] || by[1]) this.tryWater({ do: "move", ids: hold.ids, motion: { shift: { by } } });
    }

    dropThings(hold) {
      this.say("");
      if (hold.by && (hold.by[0] || hold.by[1]))
        this.wire.send({ do: "move", ids: hold.ids, motion: { shift: { by: hold.by } } });
      else this.mark();
    }

    dragBox(event, hold) {
      const p = this.view.ground(event);
      hold.to = p;
      this.over.replaceChildren();
      make(
        "path",
        { class: "box", d: pathOf([[hold.p, [p[0], hold.p[1]], p, [hold.p[0], p[1]]]]) },
        this.over,
      );
    }

    dropBox(hold) {
      if (!hold.to) return;
      const [l, r] = [hold.p[0], hold.to[0]].sort((a, b) => a - b);
      const [b, t] = [hold.p[1], hold.to[1]].sort((a, c) => a - c);
      const within = (p) => p[0] >= l && p[0] <= r && p[1] >= b && p[1] <= t;
      const ids = [...this.svg.querySelectorAll(".thing")]
        .filter((e) => (ringsOf(e) ? ringsOf(e).flat() : [pointOf(e)]).every((p) => p && within(p)))
        .map((e) => e.dataset.id);
      this.pick(ids);
    }
  };
