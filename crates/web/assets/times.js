// Bars of the night under the hand: a station's first run is dragged, or nudged with the arrow keys, to
// another start. The start is kept by the server, which packs the rest of the night round it.

const STEP = 5;
let drag = null;
let waiting = null;

const night = () => document.getElementById("night");
const minute = (svg) => {
  const width = Number(svg.querySelector(".lanes").dataset.minute);
  return (width * svg.getBoundingClientRect().width) / svg.viewBox.baseVal.width;
};

const snapped = (start) => Math.round(start / STEP) * STEP;

const keep = (grip, start) => {
  const { month, job } = night().dataset;
  window.htmx.ajax("POST", `/jobs/${job}/times/start`, {
    target: "#page",
    swap: "innerHTML",
    values: { valve: grip.dataset.run, start: String(Math.max(0, start)), month },
  });
};

document.addEventListener("pointerdown", (event) => {
  const grip = event.target.closest?.("#night .grip");
  if (!grip || event.button !== 0) return;
  event.preventDefault();
  grip.setPointerCapture(event.pointerId);
  drag = { grip, x: event.clientX, moved: 0, pixels: minute(grip.ownerSVGElement) };
});

document.addEventListener("pointermove", (event) => {
  if (!drag) return;
  drag.moved = Math.round((event.clientX - drag.x) / drag.pixels / STEP) * STEP;
  drag.moved = Math.max(drag.moved, -Number(drag.grip.dataset.start));
  const scale = drag.grip.ownerSVGElement.viewBox.baseVal.width;
  const shift = (drag.moved * drag.pixels * scale) / drag.grip.ownerSVGElement.getBoundingClientRect().width;
  drag.grip.setAttribute("transform", `translate(${shift} 0)`);
  drag.grip.classList.toggle("dragged", drag.moved !== 0);
});

const drop = () => {
  const done = drag;
  drag = null;
  if (done?.moved) keep(done.grip, snapped(Number(done.grip.dataset.start) + done.moved));
};
document.addEventListener("pointerup", drop);
document.addEventListener("pointercancel", () => {
  drag?.grip.removeAttribute("transform");
  drag = null;
});

document.addEventListener("keydown", (event) => {
  const grip = event.target.closest?.("#night .grip");
  const by = { ArrowLeft: -STEP, ArrowRight: STEP }[event.key];
  if (!grip || !by) return;
  event.preventDefault();
  const start = Math.max(0, snapped(Number(grip.dataset.start) + by));
  grip.dataset.start = String(start);
  const shift = Number(grip.dataset.shift ?? 0) + by * Number(grip.parentElement.dataset.minute);
  grip.dataset.shift = String(shift);
  grip.setAttribute("transform", `translate(${shift} 0)`);
  const run = grip.dataset.run;
  clearTimeout(waiting);
  waiting = setTimeout(() => {
    keep(grip, start);
    document.addEventListener(
      "htmx:afterSettle",
      () => document.querySelector(`#night .grip[data-run="${CSS.escape(run)}"]`)?.focus(),
      { once: true },
    );
  }, 600);
});
