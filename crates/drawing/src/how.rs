use fenlo_core::steps::Step;

/// A small drawing of how a step is measured, 320 by 150.
pub fn how_drawing(step: Step) -> String {
    let (title, inside) = match step {
        Step::Water => (
            "A gauge on a hose bib, a second outlet running into a bucket",
            concat!(
                r##"<path d="M20 20V130M20 60H80M20 100H190"/>"##,
                r##"<path d="M80 52v16M88 60h16" stroke-width="4"/>"##,
                r##"<circle cx="126" cy="46" r="22"/><path d="M104 60h10M126 46L138 34"/>"##,
                r##"<path d="M112 52a16 16 0 0 1 28 0" stroke-width="1"/>"##,
                r##"<path d="M190 92v16M198 100h18v14" stroke-width="4"/>"##,
                r##"<path d="M216 118v8M221 118v6M211 118v6" class="w"/>"##,
                r##"<path d="M196 122L202 146H232L238 122"/><path d="M199 134H235" class="w"/>"##,
                r##"<text x="156" y="44">pressure</text><text x="246" y="138">bucket, watch</text>"##
            ),
        ),
        Step::Ground => (
            "A corner of the lawn located with two tapes from two corners of the building",
            concat!(
                r##"<rect x="24" y="16" width="120" height="52" class="g"/>"##,
                r##"<text x="66" y="46">building</text>"##,
                r##"<path d="M24 68L210 132M144 68L210 132" class="w" stroke-dasharray="6 4"/>"##,
                r##"<circle cx="24" cy="68" r="4" class="d"/><circle cx="144" cy="68" r="4" class="d"/>"##,
                r##"<circle cx="210" cy="132" r="5" class="d"/>"##,
                r##"<text x="78" y="112">tape 1</text><text x="186" y="92">tape 2</text>"##,
                r##"<text x="222" y="136">the corner</text>"##
            ),
        ),
        Step::Heads => (
            "Radius measured from the head to where the last drops fall; the next head goes there",
            concat!(
                r##"<path d="M20 120H300"/><path d="M60 120v-16h8v16M240 120v-16h8v16"/>"##,
                r##"<path d="M64 104C110 40 190 40 244 118" class="w"/>"##,
                r##"<path d="M64 104C100 62 160 62 206 118" class="w" stroke-dasharray="3 4"/>"##,
                r##"<path d="M64 136H244M64 131v10M244 131v10"/><text x="138" y="148">radius</text>"##
            ),
        ),
        Step::Valves => (
            "A valve box with clearance for the filter, valves side by side on their manifold",
            concat!(
                r##"<rect x="40" y="24" width="240" height="96" rx="6"/><path d="M10 98H260"/>"##,
                r##"<path d="M80 98V70M140 98V70M200 98V70"/>"##,
                r##"<rect x="66" y="48" width="28" height="22" class="g"/>"##,
                r##"<rect x="126" y="48" width="28" height="22" class="g"/>"##,
                r##"<rect x="186" y="48" width="28" height="22" class="g"/>"##,
                r##"<path d="M230 98l14 -34l12 5l-13 33" class="w"/>"##,
                r##"<path d="M252 60l8 -20" stroke-dasharray="3 3"/>"##,
                r##"<text x="206" y="38">clearance to unscrew</text><text x="14" y="92">mainline</text>"##
            ),
        ),
        Step::Pressure => (
            "A pitot gauge held in the stream at the nozzle of the weakest head",
            concat!(
                r##"<path d="M20 120H300"/><path d="M60 120V92h14v28"/>"##,
                r##"<path d="M74 96L140 78L230 96L290 118" class="w"/>"##,
                r##"<path d="M92 90l18 -12h22"/><circle cx="156" cy="60" r="24"/>"##,
                r##"<path d="M156 60L172 48M134 74l-4 4"/>"##,
                r##"<path d="M140 66a18 18 0 0 1 32 0" stroke-width="1"/>"##,
                r##"<text x="190" y="52">while the zone runs</text>"##
            ),
        ),
        Step::Times => (
            "Cans on an even grid between the heads, and the depth in each",
            concat!(
                r##"<path d="M30 20H290V104H30Z" stroke-dasharray="5 4"/>"##,
                r##"<circle cx="30" cy="20" r="5" class="d"/><circle cx="290" cy="20" r="5" class="d"/>"##,
                r##"<circle cx="30" cy="104" r="5" class="d"/>"##,
                r##"<circle cx="290" cy="104" r="5" class="d"/>"##,
                r##"<g class="w"><circle cx="82" cy="41" r="8"/><circle cx="134" cy="41" r="8"/>"##,
                r##"<circle cx="186" cy="41" r="8"/><circle cx="238" cy="41" r="8"/>"##,
                r##"<circle cx="82" cy="83" r="8"/><circle cx="134" cy="83" r="8"/>"##,
                r##"<circle cx="186" cy="83" r="8"/><circle cx="238" cy="83" r="8"/></g>"##,
                r##"<path d="M110 122v22h24v-22M160 122v22h24v-22"/>"##,
                r##"<path d="M110 136h24M160 130h24" class="w"/>"##,
                r##"<text x="196" y="140">depth in each</text>"##
            ),
        ),
        Step::Parts => (
            "A strip of paper round a pipe, laid out: its length over 3.14 is the outside",
            concat!(
                r##"<ellipse cx="60" cy="70" rx="16" ry="40"/><path d="M60 30H150M60 110H150"/>"##,
                r##"<path d="M150 30a16 40 0 0 1 0 80"/>"##,
                r##"<path d="M100 30a16 40 0 0 1 0 80M112 30a16 40 0 0 1 0 80" class="w"/>"##,
                r##"<rect x="186" y="60" width="112" height="14" class="w"/>"##,
                r##"<path d="M186 84h112M186 79v10M298 79v10"/>"##,
                r##"<text x="196" y="104">÷ 3.14 = outside</text>"##
            ),
        ),
    };
    // Colours as attributes: it prints, and stands alone.
    let inside = inside
        .replace(r#" class="w""#, r##" stroke="#0a6c86""##)
        .replace(r#" class="g""#, r##" fill="#efe9da""##)
        .replace(r#" class="d""#, r##" fill="#b4491f" stroke="none""##)
        .replace("<text ", r##"<text stroke="none" fill="#17292b" font-size="12" "##);
    format!(
        r##"<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 340 152" class="how-drawing" role="img"
          aria-label="{title}" fill="none" stroke="#17292b" stroke-width="2" stroke-linecap="round"
          stroke-linejoin="round">{inside}</svg>"##
    )
}
