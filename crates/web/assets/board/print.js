// The board on paper: all that is drawn, at the largest round scale that the sheet takes, with the scale said and a scale
// bar in true length. Back on the screen it stands as it stood.

/** Round scales, as they are drawn with: 1 in to 4 ft and so on, or 1:50 and so on. */
const SCALES = {
  us: [48, 60, 96, 120, 192, 240, 360, 480, 720, 960, 1200, 2400, 4800],
  other: [50, 100, 200, 250, 500, 1000, 2000, 5000],
};
/** What a sheet of A4 or Letter leaves for the drawing, mm: upright, and on its side. */
const UPRIGHT = [180, 215];
const ON_ITS_SIDE = [245, 150];
const MM_A_PIXEL = 25.4 / 96;

/** The scale for so many metres, and whether the sheet lies on its side. */
export const sheetFor = (width, height, units) => {
  const scales = SCALES[units] ?? SCALES.other;
  const fit = (s, w, h) => (width * 1000) / s <= w && (height * 1000) / s <= h;
  const fits = ([w, h]) => scales.find((s) => fit(s, w, h)) ?? scales.at(-1);
  const [upright, onItsSide] = [fits(UPRIGHT), fits(ON_ITS_SIDE)];
  return onItsSide < upright ? { scale: onItsSide, turned: true } : { scale: upright, turned: false };
};

const said = (scale, units) =>
  units === "us" ? `1 in = ${scale / 12} ft (1:${scale})` : `1:${scale}`;

export const bindPrint = (board, signal) => {
  const sheet = new CSSStyleSheet();
  let screen = null;
  const before = () => {
    screen = { ...board.view.live };
    const { svg, view, units } = board;
    const [l, b, r, t] = board.frame();
    const { scale, turned } = sheetFor(r - l, t - b, units);
    const mm = (metres) => `${(metres * 1000) / scale}mm`;
    sheet.replaceSync(`@page { size: ${turned ? "landscape" : "portrait"}; margin: 12mm; }`);
    document.adoptedStyleSheets = [...document.adoptedStyleSheets.filter((s) => s !== sheet), sheet];
    const mpp = (scale * MM_A_PIXEL) / 1000;
    view.live = { mpp, x: l, y: -t };
    svg.style.width = mm(r - l);
    svg.style.height = mm(t - b);
    board.stage.style.width = mm(r - l);
    board.stage.style.height = mm(t - b);
    view.print(l, -t, r - l, t - b);
    document.getElementById("print-says").textContent = `${said(scale, units)}, on paper as printed at 100%`;
    board.seen(view);
  };
  const after = () => {
    if (!screen) return;
    for (const element of [board.svg, board.stage]) {
      element.style.width = "";
      element.style.height = "";
    }
    board.view.live = screen;
    screen = null;
    board.view.settle();
  };
  addEventListener("beforeprint", before, { signal });
  addEventListener("afterprint", after, { signal });
};
