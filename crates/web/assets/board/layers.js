// Which layers of the board are shown; kept for the next visit.

const KEY = "fenlo-layers";

const hidden = () => new Set((localStorage.getItem(KEY) ?? "").split(",").filter(Boolean));

export const bindLayers = (svg, signal) => {
  const boxes = [...document.querySelectorAll("[data-shows]")];
  const show = () => {
    for (const box of boxes) svg.classList.toggle(`without-${box.dataset.shows}`, !box.checked);
  };
  const off = hidden();
  for (const box of boxes) {
    box.checked = !off.has(box.dataset.shows);
    box.addEventListener(
      "change",
      () => {
        const names = boxes.filter((b) => !b.checked).map((b) => b.dataset.shows);
        localStorage.setItem(KEY, names.join(","));
        show();
      },
      { signal },
    );
  }
  show();
};

/** Valves that are ticked run together: what their heads then get. */
export const bindTogether = (board, signal) => {
  document.body.addEventListener(
    "change",
    async (event) => {
      if (!event.target.matches("[data-together]")) return;
      const ticked = () =>
        [...document.querySelectorAll("[data-together]:checked")].map((b) => b.value).join(",");
      const asked = ticked();
      const address = `/jobs/${board.job}/ground/together?valves=${encodeURIComponent(asked)}`;
      const response = await fetch(address).catch(() => null);
      const html = response?.ok ? await response.text() : null;
      const place = document.getElementById("together");
      // Another tick may have been answered first.
      if (html !== null && place && asked === ticked()) place.innerHTML = html;
    },
    { signal },
  );
};
