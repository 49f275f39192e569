// Lengths as people type them while drawing: 12'6, 12 ft 6 in, 12.5, 3.81 m, 40cm, 7 1/2".

const UNITS = {
  "'": 0.3048,
  ft: 0.3048,
  feet: 0.3048,
  foot: 0.3048,
  '"': 0.0254,
  in: 0.0254,
  inch: 0.0254,
  m: 1,
  cm: 0.01,
  mm: 0.001,
};

/** Metres, or nothing where the text is no length. A bare number is in feet or metres. */
export const parseLength = (text, units) => {
  const clean = text
    .trim()
    .toLowerCase()
    .replace(/−/g, "-")
    .replace(/[’′]/g, "'")
    .replace(/[”″]/g, '"')
    .replace(/½/g, " 1/2")
    .replace(/¼/g, " 1/4")
    .replace(/¾/g, " 3/4")
    .replace(units === "us" ? /(\d),(?=\d{3}(?!\d))/g : /$^/, "$1")
    .replace(",", ".");
  if (!clean) return null;
  const sign = clean.startsWith("-") ? -1 : 1;
  let rest = clean.replace(/^[-+]/, "").trim();
  let metres = 0;
  let unit = null;
  while (rest) {
    const part = rest.match(
      /^(\d+(?:\.\d+)?|\.\d+)?(?:\s*(\d+)\/(\d+))?\s*('|"|ft|feet|foot|inch|in|mm|cm|m)?\s*/,
    );
    if (!part || !part[0] || (part[1] === undefined && part[2] === undefined)) return null;
    const value = Number(part[1] ?? 0) + (part[2] ? Number(part[2]) / Number(part[3]) : 0);
    // After feet a bare number is inches.
    const size = part[4]
      ? UNITS[part[4]]
      : unit === 0.3048
        ? 0.0254
        : unit === null
          ? units === "us"
            ? 0.3048
            : 1
          : null;
    if (size === null || !Number.isFinite(value)) return null;
    metres += value * size;
    unit = size;
    rest = rest.slice(part[0].length);
  }
  return sign * metres;
};

/** As a tape reads: 12'6½" or 3.81 m. */
export const showLength = (metres, units) => {
  if (units !== "us") {
    const text = Math.abs(metres).toFixed(2);
    if (Number(text) === 0) return "0 m";
    return `${metres < 0 ? "−" : ""}${text.replace(/\B(?=(\d{3})+\.)/g, ",")} m`;
  }
  const quarters = Math.round((Math.abs(metres) / 0.0254) * 4);
  const [feet, inches, part] = [
    Math.floor(quarters / 48),
    Math.floor((quarters % 48) / 4),
    ["", "¼", "½", "¾"][quarters % 4],
  ];
  const text = !feet ? `${inches || !part ? inches : ""}${part}"` : !inches && !part ? `${feet}'` : `${feet}'${inches}${part}"`;
  return metres < 0 && quarters ? `−${text}` : text;
};
