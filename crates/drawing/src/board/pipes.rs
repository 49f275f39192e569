//! Mains and laterals as they are drawn: each leg to be picked, with what runs in it and which way.

use super::Beside;
use crate::svg::escape;
use fenlo_core::assess::Assessment;
use fenlo_core::earthwork::Ground;
use fenlo_core::job::Job;
use fenlo_core::plan::{Joint, JointKind, LegOf, PipeLeg};
use fenlo_core::site::Point;
use fenlo_core::terms::{Lang, term};
use fenlo_core::units::{Length, UnitSystem};
use fenlo_core::zone::{LegResult, drawn_on, legs};
use fenlo_core::zoning::{LaterArea, Stub};
use std::fmt::Write;

/// Legs shorter than this get no arrow and no size, m.
const SHORT: f64 = 2.5;

/// The main of a point of connection, as one group.
pub fn main(job: &Job, assessment: &Assessment, beside: &Beside, supply: &str) -> String {
    let of = LegOf::Main(supply.to_owned());
    let mut out = format!(r#"<g id="m-{}" class="pipes mains" data-layer="pipes">"#, escape(supply));
    legs_of(&mut out, job, assessment, beside, &of);
    for later in assessment.later(job) {
        let stub = later.stub.as_ref().filter(|s| s.supply == supply);
        out += &stub.map_or(String::new(), |stub| capped(&later, stub, job.units));
    }
    out.push_str("</g>");
    out
}

/// A stub that is left for an area that comes later, with the cap at its end.
fn capped(later: &LaterArea, stub: &Stub, u: UnitSystem) -> String {
    let turn = -stub.from.direction_to(stub.to);
    format!(
        concat!(
            r#"<g class="for-later"><title>{}</title><path d="{}"/>"#,
            r#"<g transform="translate({:.3} {:.3})"><g class="px">"#,
            r#"<path class="cap" d="M0 -6V6" transform="rotate({:.1})"/></g></g></g>"#
        ),
        escape(&fenlo_words::later_said(later, u)),
        path(&[stub.from, stub.to]),
        stub.to.x,
        -stub.to.y,
        turn
    )
}

/// The lateral of a valve, as one group: as drawn, else straight from head to head, which is how it is
/// reckoned until somebody routes it.
pub fn lateral(job: &Job, assessment: &Assessment, beside: &Beside, valve: &str) -> String {
    let number = job.valve_number(valve);
    let colour = (number + 7) % 8 + 1;
    let mut out = format!(r#"<g id="l-{}" class="pipes z{colour}" data-layer="pipes">"#, escape(valve));
    let of = LegOf::Lateral(valve.to_owned());
    if job.piping.lateral(valve).next().is_some() {
        legs_of(&mut out, job, assessment, beside, &of);
    } else {
        straight(&mut out, job, valve, number);
    }
    out.push_str("</g>");
    out
}

fn straight(out: &mut String, job: &Job, valve: &str, number: usize) {
    let Some(v) = job.valve(valve) else { return };
    let points: Vec<Point> = drawn_on(job, valve).iter().map(|(_, _, h)| h.at).collect();
    let legs = legs(job.valve_point(v), &points);
    if legs.is_empty() {
        return;
    }
    let mut d = String::new();
    for leg in &legs {
        let _ = write!(d, "M{:.3} {:.3}L{:.3} {:.3}", leg.from.x, -leg.from.y, leg.to.x, -leg.to.y);
    }
    let metres: f64 = legs.iter().map(|l| l.from.distance(l.to)).sum();
    let title = format!(
        "Lateral of valve {number}, not routed: {} straight from head to head",
        Length::from_m(metres).show(job.units)
    );
    let _ = write!(out, r#"<title>{}</title><path class="unrouted" d="{d}"/>"#, escape(&title));
}

fn legs_of(out: &mut String, job: &Job, assessment: &Assessment, beside: &Beside, of: &LegOf) {
    let mut joints: Vec<&Joint> = Vec::new();
    let own = || job.piping.legs.iter().filter(|l| l.of == *of);
    let ground = own().any(|l| l.sleeve.is_some()).then(|| Ground::covers(job));
    for leg in own() {
        let Some(way) = job.way_of(leg) else { continue };
        let drawn = beside.drawn(of, &way);
        leg_drawn(out, job, assessment, leg, [&way, &drawn], ground.as_ref());
        for end in [&leg.from, &leg.to] {
            if let Some(joint) = job.piping.joint(end)
                && !joints.iter().any(|j| j.id == joint.id)
            {
                joints.push(joint);
            }
        }
    }
    for joint in joints {
        joint_drawn(out, joint);
    }
}

/// What runs in a leg while the valve is open that makes it run fastest.
fn result<'a>(assessment: &'a Assessment, id: &str) -> Option<&'a LegResult> {
    let of_zone =
        |z: &'a fenlo_core::assess::ZoneReport| z.zone.as_ref().ok()?.legs.iter().find(|l| l.id == id);
    let all = assessment.zones.iter().filter_map(of_zone);
    all.max_by(|a, b| a.velocity.mps().total_cmp(&b.velocity.mps()))
}

/// A leg, its way and how that is drawn.
fn leg_drawn(
    out: &mut String,
    job: &Job,
    assessment: &Assessment,
    leg: &PipeLeg,
    [way, drawn]: [&[Point]; 2],
    ground: Option<&Ground>,
) {
    let u = job.units;
    let metres: f64 = way.windows(2).map(|w| w[0].distance(w[1])).sum();
    let found = result(assessment, &leg.id);
    let kind = if leg.is_main() { "main" } else { "lateral" };
    let d = path(drawn);
    let rings: Vec<String> = way.iter().map(|p| format!("[{:.4},{:.4}]", p.x, p.y)).collect();
    let marks = [(leg.size_pinned, " pinned"), (leg.kept, " kept"), (leg.sleeve.is_some(), " sleeved")];
    let marks: String = marks.iter().filter(|m| m.0).map(|m| m.1).collect();
    let _ = write!(
        out,
        r#"<g id="t-{id}" class="thing pipe {kind}{marks}" data-id="{id}" data-layer="pipes"
          data-open="yes" data-rings="[[{}]]"><title>{}</title>"#,
        rings.join(","),
        escape(&title(job, leg, metres, found, u)),
        id = escape(&leg.id)
    );
    if let (true, Some(ground)) = (leg.sleeve.is_some(), ground) {
        for (a, b) in sleeves(way, ground) {
            let _ = write!(out, r#"<path class="sleeve" d="{}"/>"#, path(&[a, b]));
        }
    }
    let _ = write!(out, r#"<path class="grab" d="{d}"/><path class="run" d="{d}"/>"#);
    if metres > SHORT {
        let against = found.is_some_and(|r| r.flow.lpm() < 0.0);
        arrow(out, drawn, metres, against, &size_word(&leg.pipe.size));
    }
    out.push_str("</g>");
}

/// Where a way lies under paving, and a foot beyond.
fn sleeves(way: &[Point], ground: &Ground) -> Vec<(Point, Point)> {
    let mut found = Vec::new();
    for w in way.windows(2) {
        let long = w[0].distance(w[1]).max(1e-9);
        let along = (w[1] - w[0]) * (1.0 / long);
        for (s, t) in ground.paved(w[0], w[1]) {
            let beyond = 0.3048;
            found.push((w[0] + along * (s * long - beyond), w[0] + along * (t * long + beyond)));
        }
    }
    found
}

/// `1-1/4in` as people write it on plans.
fn size_word(size: &str) -> String {
    size.replace('-', " ").replace("in", "″").replace("mm", "")
}

fn title(job: &Job, leg: &PipeLeg, metres: f64, found: Option<&LegResult>, u: UnitSystem) -> String {
    let whose = match &leg.of {
        LegOf::Main(_) => term("pipe.main", Lang::En).to_owned(),
        LegOf::Lateral(valve) => format!("Lateral of valve {}", job.valve_number(valve)),
    };
    let pipe = job.catalogue().pipe(&leg.pipe).map_or_else(|| leg.pipe.to_string(), |p| p.title());
    let mut title = format!("{whose}: {pipe}, {}", Length::from_m(metres).show(u));
    if let Some(r) = found {
        let _ = write!(
            title,
            "; {} at {}, loss {}",
            fenlo_core::units::Flow::from_lpm(r.flow.lpm().abs()).show(u),
            r.velocity.show(u),
            r.drop.show(u)
        );
    }
    title
}

fn path(way: &[Point]) -> String {
    let points: Vec<String> = way.iter().map(|p| format!("{:.3} {:.3}", p.x, -p.y)).collect();
    format!("M{}", points.join("L"))
}

/// An arrowhead along the water and the size beside it, in the middle of the longest stretch.
fn arrow(out: &mut String, way: &[Point], metres: f64, against: bool, size: &str) {
    let stretch = way.windows(2).max_by(|a, b| a[0].distance(a[1]).total_cmp(&b[0].distance(b[1])));
    let Some([a, b]) = stretch else { return };
    if a.distance(*b) < SHORT.min(metres) {
        return;
    }
    let at = a.middle(*b);
    let turn = -a.direction_to(*b) + if against { 180.0 } else { 0.0 };
    // Words stand upright beside the pipe, above one that runs level.
    let side = ((*b - *a).unit().unwrap_or_default().left()) * 11.0;
    let side = if side.y < 0.0 { side * -1.0 } else { side };
    let _ = write!(
        out,
        concat!(
            r#"<g transform="translate({:.3} {:.3})"><g class="px"><path class="flow" d="M-4 -3.6L5 0L-4 3.6Z" "#,
            r#"transform="rotate({:.1})"/><text class="bore" x="{:.1}" y="{:.1}">{}</text></g></g>"#
        ),
        at.x,
        -at.y,
        turn,
        side.x,
        4.0 - side.y,
        escape(size)
    );
}

fn joint_drawn(out: &mut String, joint: &Joint) {
    let words = joint.kind.name(Lang::En);
    let kind = match joint.kind {
        JointKind::Tee => "tee",
        JointKind::Isolation => "isolation",
        JointKind::Drain => "drain",
        JointKind::Flush => "flush",
        JointKind::Stub => "stub",
    };
    let mark = match joint.kind {
        JointKind::Tee => r#"<circle r="3"/>"#,
        JointKind::Isolation => r#"<path d="M-6 -5L6 5V-5L-6 5Z"/>"#,
        JointKind::Drain => r#"<path d="M-5 -3H5L0 6Z"/>"#,
        JointKind::Flush => r#"<path d="M-5 5H5L0 -6Z"/>"#,
        JointKind::Stub => r#"<rect x="-4" y="-4" width="8" height="8"/>"#,
    };
    let _ = write!(
        out,
        concat!(
            r#"<g id="t-{id}" class="thing joint {kind}" data-id="{id}" data-layer="pipes" data-at="{x},{y}">"#,
            r#"<title>{words}</title><g transform="translate({x:.3} {down:.3})"><g class="px">"#,
            r#"<circle class="grab" r="9"/>{mark}</g></g></g>"#
        ),
        id = escape(&joint.id),
        kind = kind,
        x = joint.at.x,
        y = joint.at.y,
        down = -joint.at.y,
        words = words,
        mark = mark
    );
}
