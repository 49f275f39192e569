//! Drip as it is laid: rows with their emitters, headers, the ground that they wet, where it is flushed.

use crate::svg::escape;
use fenlo_core::drip::{Laid, Part, lay, wetted_width};
use fenlo_core::job::Job;
use fenlo_core::plan::{DripLaying, HeadGroup};
use fenlo_core::site::{Point, Soil};
use fenlo_core::units::{Length, Volume};
use std::fmt::Write;

/// The watering that the wetted ground is drawn for.
pub const DRAWN_DOSE_IN: f64 = 0.5;
/// What an emitter at a plant has given where it is drawn, gal.
const DRAWN_AT_PLANT_GAL: f64 = 1.0;
/// Emitters that are drawn one by one; of more the rows are drawn as wide as they wet.
const MOST_DOTS: usize = 6_000;

/// The drip of a group, as one group with its parts in the colours of their valves.
pub fn drip(job: &Job, group: &HeadGroup) -> String {
    let mut out = format!(r#"<g id="d-{}" class="pipes drip" data-layer="pipes">"#, escape(&group.id));
    if let Ok(parts) = lay(job, group) {
        for (laid, inlet) in parts.iter().zip(&group.drawn) {
            let number = inlet.valve.as_deref().map_or(0, |v| job.valve_number(v));
            let colour = if number == 0 { 0 } else { (number - 1) % 8 + 1 };
            let _ = write!(
                out,
                r#"<g class="z{colour}"><title>{}</title>"#,
                escape(&title(job, group, laid, number))
            );
            part(&mut out, group, laid);
            out.push_str("</g>");
        }
    }
    out.push_str("</g>");
    out
}

fn title(job: &Job, group: &HeadGroup, laid: &Laid, number: usize) -> String {
    let u = job.units;
    let valve = if number == 0 { "no valve".to_owned() } else { format!("valve {number}") };
    let tube = if laid.rows.is_empty() {
        format!("{} of supply line, {} plants", laid.plain_tube().show(u), laid.plants.len())
    } else {
        format!("{} rows, {} of tubing", laid.rows.len(), laid.dripline().show(u))
    };
    format!(
        "{}: {tube}, {} emitters, {}, {valve}",
        group.name,
        laid.emitters.len(),
        fenlo_words::fine_flow(laid.flow(), u)
    )
}

fn part(out: &mut String, group: &HeadGroup, laid: &Laid) {
    let tubes = |wanted: &dyn Fn(Part) -> bool| {
        let mut d = String::new();
        for t in laid.tubes.iter().filter(|t| wanted(t.part)) {
            let (a, b) = (laid.joints[t.from].at, laid.joints[t.to].at);
            line(&mut d, a, b);
        }
        d
    };
    let mut rows = String::new();
    for row in &laid.rows {
        line(&mut rows, row.from, row.to);
    }
    let mut dots = String::new();
    if laid.emitters.len() <= MOST_DOTS {
        for e in &laid.emitters {
            let _ = write!(dots, "M{:.3} {:.3}h0", e.at.x, -e.at.y);
        }
    }
    let wet = if dots.is_empty() { &rows } else { &dots };
    let _ = write!(out, r#"<path class="wet" stroke-width="{:.3}" d="{wet}"/>"#, wet_width(group, laid).m());
    let header = tubes(&|p| matches!(p, Part::Header | Part::Return | Part::Feed | Part::Link | Part::Line));
    let turns = tubes(&|p| p == Part::Turn);
    let micro = tubes(&|p| p == Part::Micro);
    let taps = taps(laid);
    let _ = write!(
        out,
        r#"<path class="header" d="{header}"/><path class="row" d="{rows}{turns}"/><path class="micro"
          d="{micro}{taps}"/><path class="dots" d="{dots}"/>"#
    );
    if let Some(flush) = laid.flush.filter(|_| !laid.rows.is_empty()) {
        let at = laid.joints[flush].at;
        let _ = write!(
            out,
            r#"<g transform="translate({:.3} {:.3})"><g class="px flush"><title>Flush valve</title>
              <path d="M-5 -5L5 5M-5 5L5 -5"/></g></g>"#,
            at.x, -at.y
        );
    }
    let buried = matches!(&group.drip, Some(DripLaying::Rows(rows)) if rows.is_buried());
    if let Some(air) = laid.air.filter(|_| buried) {
        let at = laid.joints[air].at;
        let _ = write!(
            out,
            r#"<g transform="translate({:.3} {:.3})"><g class="px air"><title>Air relief</title><path d="M-5 4L0 -5L5 4Z"/></g></g>"#,
            at.x, -at.y
        );
    }
}

/// Micro tube from the line to emitters that stand off it.
fn taps(laid: &Laid) -> String {
    let mut d = String::new();
    let mut ringed = vec![false; laid.emitters.len()];
    // A ring that one emitter feeds is tube from each of its emitters to the next.
    for plant in laid.plants.iter().filter(|p| p.ring.is_some()) {
        let ring = &laid.emitters[plant.emitters.clone()];
        for (a, b) in ring.iter().zip(ring.iter().cycle().skip(1)) {
            line(&mut d, a.at, b.at);
        }
        ringed[plant.emitters.clone()].fill(true);
    }
    for (e, _) in laid.emitters.iter().zip(&ringed).filter(|e| !e.1) {
        let tap = laid.joints[e.joint].at;
        if tap.distance(e.at) > 0.02 {
            line(&mut d, tap, e.at);
        }
    }
    d
}

fn line(d: &mut String, a: Point, b: Point) {
    let _ = write!(d, "M{:.3} {:.3}L{:.3} {:.3}", a.x, -a.y, b.x, -b.y);
}

/// How wide an emitter wets after the drawn dose: its share of half an inch, or a gallon at a plant.
fn wet_width(group: &HeadGroup, laid: &Laid) -> Length {
    let given = match &group.drip {
        Some(DripLaying::Rows(rows)) if laid.row_spacing > Length::ZERO => {
            let m2 = laid.row_spacing.m() * rows.emitter_spacing.m();
            Volume::from_litres(m2 * DRAWN_DOSE_IN * 25.4)
        }
        _ => Volume::from_gal(DRAWN_AT_PLANT_GAL),
    };
    let soil: Soil = group.soil;
    wetted_width(soil, given)
}
