// Outlines as the hands need them for previews: the server draws what is kept.

const NS = "http://www.w3.org/2000/svg";

export const make = (name, attributes, parent) => {
  const element = document.createElementNS(NS, name);
  for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, value);
  parent?.append(element);
  return element;
};

export const distance = (a, b) => Math.hypot(b[0] - a[0], b[1] - a[1]);

/** Radius of an edge with a bulge, or none. */
export const radius = (a, b) =>
  Math.abs(a[2] || 0) > 1e-9 ? (distance(a, b) * (1 + a[2] ** 2)) / (4 * Math.abs(a[2])) : null;

/** Length along an edge. */
export const edgeLength = (a, b) =>
  radius(a, b) ? radius(a, b) * Math.abs(4 * Math.atan(a[2])) : distance(a, b);

/** Middle of an edge, on its arc. */
export const middle = (a, b) => {
  const [mx, my] = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
  // The arc rises to the right of the way the corners go.
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  return [mx + (dy / 2) * (a[2] || 0), my - (dx / 2) * (a[2] || 0)];
};

/** Path data of rings of [x, y, bulge]; the sheet's y runs up, the drawing's down. */
export const pathOf = (rings, closed = true) =>
  rings
    .map((ring) => {
      if (!ring.length) return "";
      let d = `M${ring[0][0]} ${-ring[0][1]}`;
      const last = closed ? ring.length : ring.length - 1;
      for (let i = 0; i < last; i++) {
        const [a, b] = [ring[i], ring[(i + 1) % ring.length]];
        const r = radius(a, b);
        d += r
          ? `A${r} ${r} 0 ${+(Math.abs(a[2]) > 1)} ${+(a[2] < 0)} ${b[0]} ${-b[1]}`
          : `L${b[0]} ${-b[1]}`;
      }
      return d + (closed ? "Z" : "");
    })
    .join("");

export const ringsOf = (element) => (element?.dataset.rings ? JSON.parse(element.dataset.rings) : null);
export const pointOf = (element) => element?.dataset.at?.split(",").map(Number) ?? null;
export const isOpen = (element) => element?.dataset.open === "yes";

/** Degrees counter-clockwise from the right. */
export const direction = (a, b) => ((Math.atan2(b[1] - a[1], b[0] - a[0]) * 180) / Math.PI + 360) % 360;
export const toward = (a, degrees, metres) => [
  a[0] + Math.cos((degrees * Math.PI) / 180) * metres,
  a[1] + Math.sin((degrees * Math.PI) / 180) * metres,
];

/** A name that nobody else drawing now will hardly choose. */
export const newName = (letter) =>
  letter + Array.from(crypto.getRandomValues(new Uint8Array(6)), (b) => (b % 36).toString(36)).join("");
