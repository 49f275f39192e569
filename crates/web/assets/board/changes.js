// Changed parts of the drawing, as the server sends them, into their places.

const $ = (id) => document.getElementById(id);
const NS = "http://www.w3.org/2000/svg";

/** The elements of a piece of SVG. */
export const parsed = (svg) => {
  const text = `<svg xmlns="${NS}">${svg}</svg>`;
  const nodes = new DOMParser().parseFromString(text, "image/svg+xml").documentElement.childNodes;
  return [...nodes].map((node) => document.importNode(node, true));
};

const put = ({ id, layer, after, svg }) => {
  const [fresh] = parsed(svg);
  const old = $(id);
  const home = $(`y-${layer}`);
  if (old?.parentElement === home) return old.replaceWith(fresh);
  old?.remove();
  const before = after && $(after);
  if (before) before.after(fresh);
  else home.append(fresh);
};

/** Saved state, undo, rail. */
const putHead = (html) => {
  const head = document.createElement("template");
  head.innerHTML = html;
  // An answer that was overtaken by a form's says nothing of the newest edit any more.
  const seq = (of) => Number(of.querySelector("#base")?.value ?? 0);
  if (seq(head.content) < seq(document)) return;
  for (const part of head.content.children) {
    const place = $(part.id);
    if (!place) continue;
    place.replaceChildren(...part.childNodes);
    window.htmx?.process(place);
  }
};

/** Puts all of it in; says whether anything on the board is new. */
export const take = (changes, svg) => {
  putHead(changes.head);
  changes.changed.forEach(put);
  for (const id of changes.gone) $(id)?.remove();
  if (changes.heads) {
    const there = new Set(changes.heads);
    const drawn = svg.querySelectorAll("#y-heads > g, #y-pipes > g");
    drawn.forEach((element) => there.has(element.id) || element.remove());
  }
  if (changes.underlay !== null) $("y-underlay").replaceChildren(...parsed(changes.underlay));
  $("things").textContent = changes.things;
  if (changes.things) $("board-teach")?.remove();
  return Boolean(
    changes.changed.length ||
      changes.gone.length ||
      changes.heads ||
      changes.north !== null ||
      changes.underlay !== null,
  );
};
