// Where a part is: the places of the line that was opened stand out on the plan beside the list.

const plan = () => document.querySelector("#parts-plan svg");

const light = (ids) => {
  const svg = plan();
  if (!svg) return;
  for (const lit of svg.querySelectorAll(".lit, .dim")) lit.classList.remove("lit", "dim");
  svg.classList.remove("lighting");
  if (ids.length === 0) return;
  // A joint inside laid drip stands for its inlet; a listed head has no mark at all.
  const mark = (id) => svg.querySelector(`#t-${CSS.escape(id)}`);
  const marks = ids.map((id) => mark(id) ?? mark(id.split(".")[0])).filter(Boolean);
  if (marks.length === 0) return;
  svg.classList.add("lighting");
  for (const thing of svg.querySelectorAll(".head, .pipe, .joint, .place")) thing.classList.add("dim");
  for (const mark of marks) {
    mark.classList.remove("dim");
    mark.classList.add("lit");
  }
};

// Marks of the plan keep their size on the screen: one variable says how much ground is under a pixel.
const fit = () => {
  const svg = plan();
  if (!svg) return;
  const width = svg.getBoundingClientRect().width || 1;
  const height = svg.getBoundingClientRect().height || 1;
  const box = svg.viewBox.baseVal;
  svg.style.setProperty("--mpp", Math.max(box.width / width, box.height / height).toFixed(5));
};
fit();
window.addEventListener("resize", fit);
document.addEventListener("htmx:afterSettle", fit);

const idsOf = (element) => (element.dataset.lights ?? "").split(" ").filter(Boolean);

// A line that is opened closes the one before it: one part at a time is lit.
document.addEventListener(
  "toggle",
  (event) => {
    const line = event.target.closest?.(".part-line");
    if (!line || line !== event.target) return;
    if (line.open) {
      for (const other of document.querySelectorAll(".part-line[open]")) {
        if (other !== line) other.open = false;
      }
      light(idsOf(line));
    } else if (!document.querySelector(".part-line[open]")) {
      light([]);
    }
  },
  true,
);

for (const kind of ["mouseover", "focusin"]) {
  document.addEventListener(kind, (event) => {
    const row = event.target.closest?.("tr[data-lights]");
    if (row) light(idsOf(row));
  });
}

// A document that was waited for is fetched as soon as it is there.
document.addEventListener("htmx:afterSwap", () => {
  const file = document.querySelector("a[data-fetch]");
  if (!file) return;
  file.removeAttribute("data-fetch");
  file.click();
});

// A link that was made is shown whole, to be copied.
document.addEventListener("htmx:afterSwap", () => {
  const link = document.querySelector("#new-link[data-origin]");
  if (!link) return;
  link.removeAttribute("data-origin");
  link.value = location.origin + link.value;
  link.select();
});
