//! The scaled plan. One metre of ground is one unit of the drawing; the sheet's `y` runs up, SVG's
//! down. What should keep its size on the screen stands in a group of class `px`, scaled by the
//! ground under one pixel.

use crate::colour::written_out;
use crate::svg::escape;
use fenlo_core::assess::Assessment;
use fenlo_core::coverage::Pattern;
use fenlo_core::job::Job;
use fenlo_core::plan::{DrawnHead, HeadGroup, Plan};
use fenlo_core::site::{Area, DryKind, Form, KeepDry, ObjectKind, Path, PlaceKind, Point, Shape, SiteObject};
use fenlo_core::units::{Length, Surface, UnitSystem};
use fenlo_core::zone::{drawn_on, legs};
use std::fmt::Write;

/// Rules for the look of the board, for pages and for the file.
pub const BOARD_CSS: &str = include_str!("board.css");

/// Layers from the ground up: where a thing is drawn. All ground is in one: an island lies on the
/// car park and a house on the lawn, as they were drawn.
pub const LAYERS: [&str; 6] = ["ground", "lines", "plants", "pipes", "heads", "marks"];

/// A box on the ground, metres: left, bottom, right, top.
pub type Frame = (f64, f64, f64, f64);

/// The box that holds everything drawn with a margin round it; a plot of 30 by 20 m when nothing is.
pub fn frame(plan: &Plan) -> Frame {
    let things = plan
        .site
        .objects
        .iter()
        .filter_map(SiteObject::bounds)
        .flat_map(|(a, b)| [a, b]);
    let heads = plan.groups.iter().flat_map(|g| &g.drawn).map(|h| h.at);
    let picture = plan.site.underlay.iter().flat_map(|u| {
        let (w, h) = (
            f64::from(u.width) * u.pixel.m(),
            f64::from(u.height) * u.pixel.m(),
        );
        [
            u.at,
            u.at.toward(u.degrees, w),
            u.at.toward(u.degrees + 90.0, h),
            u.at.toward(u.degrees, w).toward(u.degrees + 90.0, h),
        ]
    });
    let all = things.chain(heads).chain(picture);
    let start = (f64::INFINITY, f64::INFINITY, f64::NEG_INFINITY, f64::NEG_INFINITY);
    let (l, b, r, t) = all.fold(start, |(l, b, r, t), p| {
        (l.min(p.x), b.min(p.y), r.max(p.x), t.max(p.y))
    });
    if l > r {
        return (-2.0, -2.0, 28.0, 18.0);
    }
    let margin = ((r - l).max(t - b) * 0.06).max(1.0);
    (l - margin, b - margin, r + margin, t + margin)
}

/// What lies in a layer, as SVG.
pub fn layer(job: &Job, assessment: &Assessment, layer: &str) -> String {
    match layer {
        "heads" => job
            .groups
            .iter()
            .flat_map(|g| g.drawn.iter().map(move |h| (g, h)))
            .map(|(g, h)| head(job, assessment, g, h))
            .collect(),
        "pipes" => job.valves.iter().map(|v| pipes(job, &v.id)).collect(),
        _ => job
            .site
            .objects
            .iter()
            .filter(|t| layer_of(t) == layer)
            .map(|t| thing(t, job.units))
            .collect(),
    }
}

/// The layer of a thing.
pub fn layer_of(thing: &SiteObject) -> &'static str {
    match &thing.what {
        ObjectKind::Area(_)
        | ObjectKind::Dry(KeepDry {
            form: Form::Region(_),
            ..
        }) => "ground",
        ObjectKind::Dry(_) => "lines",
        ObjectKind::Plant(_) => "plants",
        ObjectKind::Place(_) | ObjectKind::Height(_) | ObjectKind::Note(_) => "marks",
    }
}

fn word(value: &impl serde::Serialize) -> String {
    serde_json::to_value(value)
        .ok()
        .and_then(|v| v.as_str().map(str::to_owned))
        .unwrap_or_default()
}

fn ring_path(d: &mut String, edges: impl Iterator<Item = fenlo_core::site::Edge>, close: bool) {
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

pub(crate) fn shape_path(shape: &Shape) -> String {
    let mut d = String::new();
    for ring in shape.rings() {
        ring_path(&mut d, ring.edges(), true);
    }
    d
}

fn line_path(path: &Path) -> String {
    let mut d = String::new();
    ring_path(&mut d, path.edges(), false);
    d
}

/// Corners as data for the hands: `[[[x, y, bulge], ...], ...]`.
fn corner_data(rings: &[&[fenlo_core::site::Vertex]]) -> String {
    let ring = |r: &&[fenlo_core::site::Vertex]| {
        format!(
            "[{}]",
            r.iter()
                .map(|v| format!("[{},{},{}]", v.at.x, v.at.y, v.bulge))
                .collect::<Vec<_>>()
                .join(",")
        )
    };
    format!("[{}]", rings.iter().map(ring).collect::<Vec<_>>().join(","))
}

/// Opens two groups whose content keeps its size on the screen; `more` goes on the inner one.
fn keep_size(at: Point, more: &str) -> String {
    format!(
        r#"<g transform="translate({:.3} {:.3})"><g class="px"{more}>"#,
        at.x, -at.y
    )
}

/// Text that keeps its size on the screen. `room` is how wide and how high the ground is there,
/// metres: what does not fit is turned or left out.
fn label(out: &mut String, at: Point, class: &str, room: Option<(f64, f64)>, lines: &[(&str, String)]) {
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
fn dimensions(
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
fn room(shape: &Shape, at: Point) -> (f64, f64) {
    let rings: Vec<Vec<Point>> = shape.rings().map(|r| r.flat(0.05)).collect();
    let run = |turn: fn(Point) -> (f64, f64)| {
        let (u, v) = turn(at);
        let (mut before, mut after) = (f64::INFINITY, f64::INFINITY);
        for ring in &rings {
            for (a, b) in ring.iter().zip(ring.iter().cycle().skip(1)) {
                let ((ua, va), (ub, vb)) = (turn(*a), turn(*b));
                if (va > v) != (vb > v) {
                    let cut = ua + (ub - ua) * (v - va) / (vb - va) - u;
                    if cut < 0.0 {
                        before = before.min(-cut)
                    } else {
                        after = after.min(cut)
                    }
                }
            }
        }
        // The text stands in the middle of its point.
        let run = 2.0 * before.min(after);
        if run.is_finite() { run } else { 0.0 }
    };
    (run(|p| (p.x, p.y)), run(|p| (p.y, p.x)))
}

fn ring_dimensions(out: &mut String, shape: &Shape, u: UnitSystem) {
    for (i, ring) in shape.rings().enumerate() {
        dimensions(out, ring.edges(), (ring.signed_area() > 0.0) == (i == 0), u);
    }
}

/// One thing, with its id as `t-…`.
pub fn thing(t: &SiteObject, u: UnitSystem) -> String {
    let mut out = String::new();
    let (class, says, data) = match &t.what {
        ObjectKind::Area(a) => (
            format!("area {}", word(&a.kind)),
            size_words(&a.shape, u),
            rings_data(&a.shape),
        ),
        ObjectKind::Dry(KeepDry {
            kind,
            form: Form::Region(shape),
            ..
        }) => (
            format!("dry {}", word(kind)),
            size_words(shape, u),
            rings_data(shape),
        ),
        ObjectKind::Dry(KeepDry {
            kind,
            form: Form::Line(path),
            ..
        }) => (
            format!("dry line {}", word(kind)),
            Length::from_m(path.length()).show_tape(u),
            format!(r#"data-open="yes" data-rings="{}""#, corner_data(&[&path.0])),
        ),
        ObjectKind::Place(p) => (format!("place {}", word(&p.kind)), String::new(), at_data(p.at)),
        ObjectKind::Plant(p) => {
            let says = format!("{} × {} wide", p.count, p.canopy.show_tape(u));
            let to =
                p.to.map_or(String::new(), |to| format!(r#" data-to="{},{}""#, to.x, to.y));
            ("plant".to_owned(), says, at_data(p.at) + &to)
        }
        ObjectKind::Height(h) => ("height".to_owned(), h.height.show(u), at_data(h.at)),
        ObjectKind::Note(n) => ("note".to_owned(), n.text.clone(), at_data(n.at)),
    };
    let title = if says.is_empty() {
        t.title().to_owned()
    } else {
        format!("{}, {says}", t.title())
    };
    let _ = write!(
        out,
        r#"<g id="t-{id}" class="thing {class}" data-id="{id}" data-layer="{}" {data}><title>{}</title>"#,
        layer_of(t),
        escape(&title),
        id = escape(&t.id)
    );
    match &t.what {
        ObjectKind::Area(Area { shape, .. }) => {
            let _ = write!(out, r#"<path d="{}"/>"#, shape_path(shape));
            let perimeter = Length::from_m(shape.perimeter()).show_tape(u);
            let at = shape.inner_point();
            label(
                &mut out,
                at,
                "",
                Some(room(shape, at)),
                &[
                    ("name", t.title().to_owned()),
                    ("size", Surface::from_m2(shape.area_m2()).show(u)),
                    ("size round", format!("{perimeter} round")),
                ],
            );
            ring_dimensions(&mut out, shape, u);
        }
        ObjectKind::Dry(KeepDry {
            kind,
            form: Form::Region(shape),
            ..
        }) => {
            let _ = write!(out, r#"<path d="{}"/>"#, shape_path(shape));
            if *kind == DryKind::Building {
                hatch(&mut out, shape);
            }
            let at = shape.inner_point();
            label(
                &mut out,
                at,
                "",
                Some(room(shape, at)),
                &[
                    ("name", t.title().to_owned()),
                    ("size", Surface::from_m2(shape.area_m2()).show(u)),
                ],
            );
            ring_dimensions(&mut out, shape, u);
        }
        ObjectKind::Dry(KeepDry {
            form: Form::Line(path),
            ..
        }) => {
            let _ = write!(out, r#"<path d="{}"/>"#, line_path(path));
            dimensions(&mut out, path.edges(), true, u);
        }
        ObjectKind::Place(p) => {
            let sign = match p.kind {
                PlaceKind::Water => "W",
                PlaceKind::Meter => "M",
                PlaceKind::Power => "P",
                PlaceKind::Controller => "C",
                PlaceKind::ValveBox => "V",
            };
            let _ = write!(
                out,
                r#"{}<rect x="-10" y="-10" width="20" height="20" rx="2"/>"#,
                keep_size(p.at, "")
            );
            let _ = write!(
                out,
                r#"<text class="sign" text-anchor="middle" y="4.5">{sign}</text>"#
            );
            let _ = write!(
                out,
                r#"<text class="tag" x="15" y="4.5">{}</text></g></g>"#,
                escape(t.title())
            );
        }
        ObjectKind::Plant(p) => {
            for at in p.spots() {
                let _ = write!(
                    out,
                    r#"<circle cx="{:.3}" cy="{:.3}" r="{:.3}"/><circle class="stem" cx="{0:.3}" cy="{1:.3}" r="0.05"/>"#,
                    at.x,
                    -at.y,
                    p.canopy.m() / 2.0
                );
            }
            if !t.name.is_empty() {
                label(&mut out, p.at, "tag", None, &[("size", t.name.clone())]);
            }
        }
        ObjectKind::Height(h) => {
            let _ = write!(
                out,
                r#"<g transform="translate({:.3} {:.3})"><g class="px"><path d="M-5 -5L5 5M-5 5L5 -5"/><text x="8" y="4">{}</text></g></g>"#,
                h.at.x,
                -h.at.y,
                escape(&h.height.show(u))
            );
        }
        ObjectKind::Note(n) => {
            let _ = write!(
                out,
                r#"<g transform="translate({:.3} {:.3})"><g class="px"><text y="4">{}</text></g></g>"#,
                n.at.x,
                -n.at.y,
                escape(&n.text)
            );
        }
    }
    out.push_str("</g>");
    out
}

/// How ground looks, without what is written on it.
pub(crate) fn class_of(thing: &SiteObject) -> String {
    match &thing.what {
        ObjectKind::Area(a) => format!("area {}", word(&a.kind)),
        ObjectKind::Dry(d) => format!("dry {}", word(&d.kind)),
        _ => String::new(),
    }
}

fn size_words(shape: &Shape, u: UnitSystem) -> String {
    format!(
        "{}, {} round",
        Surface::from_m2(shape.area_m2()).show(u),
        Length::from_m(shape.perimeter()).show_tape(u)
    )
}

fn rings_data(shape: &Shape) -> String {
    let rings: Vec<&[fenlo_core::site::Vertex]> = shape.rings().map(|r| r.0.as_slice()).collect();
    format!(r#"data-rings="{}""#, corner_data(&rings))
}

fn at_data(at: Point) -> String {
    format!(r#"data-at="{},{}""#, at.x, at.y)
}

/// Slanting lines over a building, drawn as far as its box and cut by the shape's own scan lines.
fn hatch(out: &mut String, shape: &Shape) {
    let points: Vec<Vec<Point>> = shape.rings().map(|r| r.flat(0.05)).collect();
    let slant = |p: Point| (p.x + p.y, p.x - p.y);
    let (low, high) = points[0].iter().fold((f64::MAX, f64::MIN), |(l, h), p| {
        (l.min(slant(*p).0), h.max(slant(*p).0))
    });
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

/// One head, its throw to scale at the pressure it gets, with its id as `t-…`.
pub fn head(job: &Job, assessment: &Assessment, group: &HeadGroup, h: &DrawnHead) -> String {
    let catalogue = job.catalogue();
    let u = job.units;
    let number = h.valve.as_deref().map_or(0, |v| job.valve_number(v));
    let listed: u32 = group.listed.iter().map(|l| l.count).sum();
    let index = group
        .drawn
        .iter()
        .position(|d| d.id == h.id)
        .map(|i| i as u32 + listed);
    let zone = h
        .valve
        .as_deref()
        .and_then(|v| assessment.zone(v))
        .and_then(|z| z.zone.as_ref().ok());
    let result = zone.and_then(|z| {
        z.heads
            .iter()
            .find(|r| r.head.group == group.id && Some(r.head.index) == index)
    });
    let nozzle = catalogue.nozzle(&group.nozzle);
    let full = nozzle.and_then(|n| n.radius).unwrap_or(group.spacing);
    let throw = nozzle
        .and_then(|n| {
            n.throw(
                catalogue.class(n.kind),
                result.map_or(catalogue.class(n.kind).nominal, |r| r.nozzle),
                h.radius,
            )
        })
        .unwrap_or(full);
    let (low, says) = match result {
        Some(r) => {
            let low = r.nozzle < r.band.least;
            (
                low,
                format!(
                    "{} arrives, wants {}, throws {}",
                    r.nozzle.show(u),
                    r.band.best.show_round(u),
                    throw.show(u)
                ),
            )
        }
        None => (
            false,
            format!("on no valve, throws {} at nominal pressure", throw.show(u)),
        ),
    };
    let valve = if number > 0 {
        format!("valve {number}, ")
    } else {
        String::new()
    };
    let title = format!(
        "{}, {}°, {valve}{says}",
        nozzle.map_or_else(|| "Head".to_owned(), |n| fenlo_words::nozzle(n, u)),
        h.arc
    );
    let strip = nozzle.and_then(|n| Some(Pattern::of(&n.pattern?, throw.m() / n.radius?.m())));
    let locked = if h.locked { " locked" } else { "" };
    let mut out = String::new();
    let colour = if number == 0 { 0 } else { (number - 1) % 8 + 1 };
    let _ = write!(
        out,
        r#"<g id="t-{id}" class="thing head z{colour}{}{locked}" data-id="{id}" data-layer="heads" data-at="{},{}""#,
        if low { " low" } else { "" },
        h.at.x,
        h.at.y,
        id = escape(&h.id)
    );
    let _ = write!(
        out,
        r#" data-facing="{}" data-arc="{}" data-radius="{}" data-full="{}""#,
        h.facing,
        h.arc,
        h.radius.unwrap_or(full).m(),
        full.m()
    );
    let _ = write!(
        out,
        r#" data-nozzle="{}" data-valve="{}"{}><title>{}</title>"#,
        escape(&group.nozzle),
        escape(h.valve.as_deref().unwrap_or("")),
        if strip.is_some() {
            r#" data-strip="yes""#
        } else {
            ""
        },
        escape(&title)
    );
    let _ = write!(
        out,
        r#"<path class="throw" d="{}"/>"#,
        strip.map_or_else(|| sector(h, throw.m()), |p| strip_path(h, p))
    );
    let _ = write!(
        out,
        r#"<g transform="translate({:.3} {:.3})"><g class="px">"#,
        h.at.x, -h.at.y
    );
    let (dx, dy) = (
        h.facing.to_radians().cos() * 8.0,
        -h.facing.to_radians().sin() * 8.0,
    );
    if low {
        out.push_str(r#"<circle class="alarm" r="11"/>"#);
        if let Some(r) = result {
            let _ = write!(
                out,
                r#"<text x="14" y="-8">{} · wants {}</text>"#,
                escape(&r.nozzle.show(u)),
                escape(&r.band.best.show_round(u))
            );
        }
    }
    let _ = write!(
        out,
        r#"<circle class="ring" r="4.6"/><line class="tick" x2="{dx:.1}" y2="{dy:.1}"/>{}</g></g></g>"#,
        if h.locked {
            r#"<rect class="lock" x="-2" y="-2" width="4" height="4"/>"#
        } else {
            ""
        }
    );
    out
}

fn strip_path(h: &DrawnHead, pattern: Pattern) -> String {
    let corners = pattern
        .corners()
        .unwrap_or_default()
        .map(|(ahead, left)| h.at.toward(h.facing, ahead).toward(h.facing + 90.0, left));
    let d: Vec<String> = corners
        .iter()
        .map(|p| format!("{:.3} {:.3}", p.x, -p.y))
        .collect();
    format!("M{}Z", d.join("L"))
}

fn sector(h: &DrawnHead, r: f64) -> String {
    let (x, y) = (h.at.x, -h.at.y);
    if h.arc >= 360 {
        return format!(
            "M{:.3} {y:.3}A{r:.3} {r:.3} 0 1 0 {:.3} {y:.3}A{r:.3} {r:.3} 0 1 0 {:.3} {y:.3}Z",
            x + r,
            x - r,
            x + r
        );
    }
    let half = f64::from(h.arc) / 2.0;
    let (a, b) = (h.at.toward(h.facing - half, r), h.at.toward(h.facing + half, r));
    format!(
        "M{x:.3} {y:.3}L{:.3} {:.3}A{r:.3} {r:.3} 0 {} 0 {:.3} {:.3}Z",
        a.x,
        -a.y,
        u8::from(h.arc > 180),
        b.x,
        -b.y
    )
}

/// Laterals of a valve, straight from head to head.
pub fn pipes(plan: &Plan, valve: &str) -> String {
    let Some(v) = plan.valve(valve) else {
        return String::new();
    };
    let points: Vec<Point> = drawn_on(plan, valve).iter().map(|(_, _, h)| h.at).collect();
    let number = plan.valve_number(valve);
    let mut d = String::new();
    for leg in legs(plan.valve_point(v), &points) {
        let _ = write!(
            d,
            "M{:.3} {:.3}L{:.3} {:.3}",
            leg.from.x, -leg.from.y, leg.to.x, -leg.to.y
        );
    }
    let metres: f64 = legs(plan.valve_point(v), &points)
        .iter()
        .map(|l| l.from.distance(l.to))
        .sum();
    let title = format!(
        "Laterals of valve {number}, {} of pipe",
        Length::from_m(metres).show(plan.units)
    );
    format!(
        r#"<g id="l-{id}" class="legs z{}" data-layer="pipes"><title>{}</title><path d="{d}"/></g>"#,
        (number - 1) % 8 + 1,
        escape(&title),
        id = escape(valve)
    )
}

/// The picture beneath, as an image that is fetched from `href`.
pub fn underlay(plan: &Plan, href: &str) -> String {
    let Some(u) = &plan.site.underlay else {
        return String::new();
    };
    let (w, h) = (
        f64::from(u.width) * u.pixel.m(),
        f64::from(u.height) * u.pixel.m(),
    );
    let laid = format!(
        "translate({:.4} {:.4}) rotate({:.4})",
        u.at.x, -u.at.y, -u.degrees
    );
    format!(
        r#"<image href="{}" x="0" y="{:.4}" width="{w:.4}" height="{h:.4}" opacity="{:.2}" {stretch} transform="{laid}"/>"#,
        escape(href),
        -h,
        u.strength,
        stretch = r#"preserveAspectRatio="none""#
    )
}

/// The plan as a file of its own, to scale: one metre of ground is 10 mm of paper (1:100), smaller
/// scales where that would be over two metres.
pub fn board_svg(job: &Job, assessment: &Assessment) -> String {
    let (l, b, r, t) = frame(job);
    let (w, h) = (r - l, t - b);
    let scale = [100.0, 200.0, 500.0, 1000.0, 5000.0]
        .into_iter()
        .find(|s| w.max(h) / s <= 2.0)
        .unwrap_or(20_000.0);
    let mm = 1000.0 / scale;
    // A screen pixel is 1/96 in of paper.
    let mpp = scale * 0.0254 / 96.0;
    let mut out = format!(
        r#"<svg xmlns="http://www.w3.org/2000/svg" class="board" viewBox="{l:.3} {:.3} {w:.3} {h:.3}""#,
        -t
    );
    let _ = write!(
        out,
        r#" width="{:.1}mm" height="{:.1}mm"><title>{} · 1:{scale}</title><style>{}.board{{--mpp:{mpp:.5}}}</style>"#,
        w * mm,
        h * mm,
        escape(&job.name),
        written_out(BOARD_CSS)
    );
    for name in LAYERS {
        let _ = write!(
            out,
            r#"<g class="layer-{name}">{}</g>"#,
            layer(job, assessment, name)
        );
    }
    out.push_str("</svg>\n");
    out
}
