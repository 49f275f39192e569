//! A sheet to be printed at its true size and held against tube and thread.

use crate::svg::escape;
use std::fmt::Write;

/// What can be measured: name, outside diameter in mm. Threads by their standard, tubes as usually made.
const THINGS: [(&str, f64); 10] = [
    ("micro tubing 1/4 in", 6.35),
    ("tube 16 mm", 16.0),
    ("tubing 0.70 in (1/2 in poly)", 17.78),
    ("thread 1/2 in", 21.34),
    ("PVC 1/2 in", 21.34),
    ("tubing 0.94 in (3/4 in poly)", 23.88),
    ("thread 3/4 in, PVC 3/4 in", 26.67),
    ("hose thread", 26.99),
    ("tube 32 mm", 32.0),
    ("thread 1 in, PVC 1 in", 33.4),
];

/// Circles of the outside diameters at 1:1 on A4 (it fits letter too), with rulers that show whether the
/// printer kept the scale.
pub fn measure_sheet() -> String {
    let mut out = String::from(concat!(
        r##"<svg xmlns="http://www.w3.org/2000/svg" width="210mm" height="270mm" viewBox="0 0 210 270"
          font-family="Atkinson Hyperlegible Next, sans-serif" font-size="4" fill="#17292b">"##,
        r##"<title>Tubing and threads, full size</title>"##,
        r##"<text x="15" y="16" font-size="6" font-weight="700">Tubing and threads, full size</text>"##,
        r##"<text x="15"
          y="23">Print at 100%. Check that the rulers below measure 100 mm and 4 in; if not, do not use this sheet.</text>"##,
        r##"<text x="15"
          y="29">Stand the pipe end on a circle. The matching circle is exactly covered. Hose thread and 3/4 in pipe thread look alike but do not fit.</text>"##,
    ));
    for (i, (name, diameter)) in THINGS.iter().enumerate() {
        let (x, y) = (45.0 + (i % 2) as f64 * 95.0, 56.0 + (i / 2) as f64 * 40.0);
        let _ = write!(
            out,
            r##"<circle cx="{x}" cy="{y}" r="{:.3}" fill="none" stroke="#17292b" stroke-width="0.25"/>
              <path d="M{} {y}h4M{x} {}v4" stroke="#17292b" stroke-width="0.2"/><text x="{x}" y="{:.1}"
              text-anchor="middle">{}: {diameter:.1} mm, {:.3} in</text>"##,
            diameter / 2.0,
            x - 2.0,
            y - 2.0,
            y + diameter / 2.0 + 5.0,
            escape(name),
            diameter / 25.4
        );
    }
    ruler(&mut out, 252.0, 100.0, 10, "100 mm");
    ruler(&mut out, 264.0, 101.6, 4, "4 in");
    out.push_str("</svg>");
    out
}

fn ruler(out: &mut String, y: f64, length: f64, parts: usize, name: &str) {
    let _ = write!(out, r##"<path d="M15 {y}h{length}"##);
    for i in 0..=parts {
        let x = 15.0 + length * i as f64 / parts as f64;
        let _ = write!(out, "M{x:.3} {}V{y}", y - 4.0);
    }
    let _ = write!(
        out,
        r##"" stroke="#17292b" stroke-width="0.3" fill="none"/><text x="{:.1}" y="{y}">{name}</text>"##,
        15.0 + length + 4.0
    );
}
