//! Outlines, lines and words as pieces of SVG, with what the hands read off them.

use crate::svg::escape;
use fenlo_core::site::{ObjectKind, Path, Point, Shape, SiteObject};
use fenlo_core::units::{Length, Surface, UnitSystem};
use std::fmt::Write;

pub(super) fn word(value: &impl serde::Serialize) -> String {
    serde_json::to_value(value).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default()
}

pub(crate) fn ring_path(d: &mut String, edges: impl Iterator<Item = fenlo_core::site::Edge>, close: bool) {
    for (i, e) in edges.enumerate() {
        if i == 0 {
            let _ = write!(d, "M{:.4} {:.4}", e.from.x, -e.from.y);
        }
        match e.radius() {
            None => {
                let _ = write!(d, "L{:.4} {:.4}", e.to.x, -e.to.y);
            }
            Some(r) => {
                // A turn to the left stays one when the sheet is turned over for SVG: sweep 0.
                let (large, sweep) = (u8::from(e.bulge.abs() > 1.0), u8::from(e.bulge < 0.0));
                let _ = write!(d, "A{r:.4} {r:.4} 0 {large} {sweep} {:.4} {:.4}", e.to.x, -e.to.y);
            }
        }
    }
    if close && !d.is_empty() {
        d.push('Z');
    }
}

pub(super) fn line_path(path: &Path) -> String {
    let mut d = String::new();
    ring_path(&mut d, path.edges(), false);
    d
}

/// Corners as data for the hands: `[[[x, y, bulge], ...], ...]`.
pub(super) fn corner_data(rings: &[&[fenlo_core::site::Vertex]]) -> String {
    let ring = |r: &&[fenlo_core::site::Vertex]| {
        format!(
            "[{}]",
            r.iter().map(|v| format!("[{},{},{}]", v.at.x, v.at.y, v.bulge)).collect::<Vec<_>>().join(",")
        )
    };
    format!("[{}]", rings.iter().map(ring).collect::<Vec<_>>().join(","))
}

/// Opens two groups whose content keeps its size on the screen; `more` goes on the inner one.
pub(super) fn keep_size(at: Point, more: &str) -> String {
    format!(r#"<g transform="translate({:.3} {:.3})"><g class="px"{more}>"#, at.x, -at.y)
}

/// Text that keeps its size on the screen. `room` is how wide and how high the ground is there,
/// metres: what does not fit is turned or left out.
pub(super) fn label(
    out: &mut String,
    at: Point,
    class: &str,
    room: Option<(f64, f64)>,
    lines: &[(&str, String)],
) {
    let room = room.map_or(String::new(), |(w, h)| format!(r#" data-room="{w:.2},{h:.2}""#));
    let _ = write!(
        out,
        r#"<g class="label {class}" transform="translate({:.3} {:.3})"{room}><g class="px" text-anchor="middle">"#,
        at.x, -at.y
    );
    for (i, (class, text)) in lines.iter().enumerate() {
        let y = 4.0 + 15.0 * (i as f64 - (lines.len() as f64 - 1.0) / 2.0);
        let _ = write!(out, r#"<text class="{class}" y="{y:.1}">{}</text>"#, escape(text));
    }
    out.push_str("</g></g>");
}

/// Lengths of the edges, each beside its middle.
pub(super) fn dimensions(
    out: &mut String,
    edges: impl Iterator<Item = fenlo_core::site::Edge>,
    left_is_inside: bool,
    u: UnitSystem,
) {
    out.push_str(r#"<g class="dims">"#);
    for e in edges.take(60) {
        let along = e.from.direction_to(e.to);
        // Never upside down.
        let over = (90.0001..270.0001).contains(&along);
        let turn = if over { along - 180.0 } else { along };
        // Outside the ring, where nothing else is written.
        let aside = if over == left_is_inside { -8 } else { 16 };
        let at = e.at(0.5);
        let metres = e.length();
        let _ = write!(
            out,
            r#"<g transform="translate({:.3} {:.3}) rotate({:.1})" data-m="{metres:.2}">"#,
            at.x, -at.y, -turn
        );
        let _ = write!(
            out,
            r#"<g class="px" text-anchor="middle"><text class="dim" y="{aside}">{}</text></g></g>"#,
            escape(&Length::from_m(metres).show_tape(u))
        );
    }
    out.push_str("</g>");
}

/// How far the ground runs through a point across the sheet and up it, metres.
pub(super) fn room(shape: &Shape, at: Point) -> (f64, f64) {
    let rings: Vec<Vec<Point>> = shape.rings().map(|r| r.flat(0.05)).collect();
    let run = |turn: fn(Point) -> (f64, f64)| {
        let (u, v) = turn(at);
        let (mut before, mut after) = (f64::INFINITY, f64::INFINITY);
        for ring in &rings {
            for (a, b) in ring.iter().zip(ring.iter().cycle().skip(1)) {
                let ((ua, va), (ub, vb)) = (turn(*a), turn(*b));
                if (va > v) != (vb > v) {
                    let cut = ua + (ub - ua) * (v - va) / (vb - va) - u;
                    if cut < 0.0 { before = before.min(-cut) } else { after = after.min(cut) }
                }
            }
        }
        // The text stands in the middle of its point.
        let run = 2.0 * before.min(after);
        if run.is_finite() { run } else { 0.0 }
    };
    (run(|p| (p.x, p.y)), run(|p| (p.y, p.x)))
}

pub(super) fn ring_dimensions(out: &mut String, shape: &Shape, u: UnitSystem) {
    for (i, ring) in shape.rings().enumerate() {
        dimensions(out, ring.edges(), (ring.signed_area() > 0.0) == (i == 0), u);
    }
}

pub(super) fn size_words(shape: &Shape, u: UnitSystem) -> String {
    format!(
        "{}, perimeter {}",
        Surface::from_m2(shape.area_m2()).show(u),
        Length::from_m(shape.perimeter()).show_tape(u)
    )
}

pub(super) fn rings_data(shape: &Shape) -> String {
    let rings: Vec<&[fenlo_core::site::Vertex]> = shape.rings().map(|r| r.0.as_slice()).collect();
    format!(r#"data-rings="{}""#, corner_data(&rings))
}

pub(super) fn at_data(at: Point) -> String {
    format!(r#"data-at="{},{}""#, at.x, at.y)
}

/// Slanting lines over a building, drawn as far as its box and cut by the shape's own scan lines.
pub(super) fn hatch(out: &mut String, shape: &Shape) {
    let points: Vec<Vec<Point>> = shape.rings().map(|r| r.flat(0.05)).collect();
    let slant = |p: Point| (p.x + p.y, p.x - p.y);
    let (low, high) =
        points[0].iter().fold((f64::MAX, f64::MIN), |(l, h), p| (l.min(slant(*p).0), h.max(slant(*p).0)));
    let step = ((high - low) / 24.0).max(0.5);
    let mut d = String::new();
    let mut at = low + step / 2.0;
    while at < high {
        let mut cuts: Vec<f64> = Vec::new();
        for ring in &points {
            for (a, b) in ring.iter().zip(ring.iter().cycle().skip(1)) {
                let ((ua, va), (ub, vb)) = (slant(*a), slant(*b));
                if (ua > at) != (ub > at) {
                    cuts.push(va + (vb - va) * (at - ua) / (ub - ua));
                }
            }
        }
        cuts.sort_by(f64::total_cmp);
        for pair in cuts.chunks_exact(2) {
            let point = |v: f64| ((at + v) / 2.0, (at - v) / 2.0);
            let ((x1, y1), (x2, y2)) = (point(pair[0]), point(pair[1]));
            let _ = write!(d, "M{x1:.2} {:.2}L{x2:.2} {:.2}", -y1, -y2);
        }
        at += step;
    }
    let _ = write!(out, r#"<path class="hatch" d="{d}"/>"#);
}

pub(crate) fn shape_path(shape: &Shape) -> String {
    let mut d = String::new();
    for ring in shape.rings() {
        ring_path(&mut d, ring.edges(), true);
    }
    d
}

/// How ground looks, without what is written on it.
pub(crate) fn class_of(thing: &SiteObject) -> String {
    match &thing.what {
        ObjectKind::Area(a) => format!("area {}", word(&a.kind)),
        ObjectKind::Dry(d) => format!("dry {}", word(&d.kind)),
        _ => String::new(),
    }
}
