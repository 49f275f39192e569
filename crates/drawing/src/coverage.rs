//! The water on the ground as a map: bands of rate against the area's mean, where it is driest and
//! wettest, and what is thrown off it. In ground metres, for the board and for pictures alike.

use crate::svg::escape;
use fenlo_core::coverage::{Coverage, Under};
use fenlo_core::layout::Proposal;
use fenlo_core::plan::Plan;
use fenlo_core::units::{Rate, UnitSystem};
use std::fmt::Write;

/// Upper ends of the bands as shares of the mean, and how they are called in `board.css`.
const BANDS: [(f32, &str); 7] =
    [(0.5, "w0"), (0.7, "w1"), (0.85, "w2"), (1.0, "w3"), (1.15, "w4"), (1.4, "w5"), (f32::INFINITY, "w6")];
/// Water off the area is shown from this share of the mean on.
const SPILT: f32 = 0.08;
/// Cells drawn at most: finer is not seen.
const MOST_DRAWN: usize = 40_000;

/// Bands of the scale: their class, and the rates that they stand for, without the unit.
pub fn scale(c: &Coverage, u: UnitSystem) -> Vec<(&'static str, String)> {
    let Some(mean) = c.uniformity.map(|k| k.mean) else {
        return Vec::new();
    };
    let rate = |share: f32| {
        Rate::from_mmph(mean * f64::from(share)).show(u).split(' ').next().unwrap_or_default().to_owned()
    };
    let mut low = 0.0;
    BANDS
        .iter()
        .map(|(high, class)| {
            let says = if high.is_infinite() {
                format!("over {}", rate(low))
            } else {
                format!("{} to {}", rate(low), rate(*high))
            };
            low = *high;
            (*class, says)
        })
        .collect()
}

/// The map of one area.
pub fn coverage_map(c: &Coverage, u: UnitSystem) -> String {
    let mut out = format!(r#"<g class="water" data-area="{}">"#, escape(&c.area));
    let Some(known) = c.uniformity else {
        return out + "</g>";
    };
    let grid = &c.grid;
    let stride = ((grid.len() as f64 / MOST_DRAWN as f64).sqrt().ceil() as usize).max(1);
    let side = grid.cell * stride as f64;
    let mean = known.mean as f32;
    let mut paths: Vec<String> = vec![String::new(); BANDS.len() + 2];
    for row in (0..grid.rows).step_by(stride) {
        let mut run: Option<(usize, usize, usize)> = None;
        let y = grid.origin.y + (row as f64) * grid.cell + side;
        let mut close = |run: Option<(usize, usize, usize)>| {
            if let Some((band, from, to)) = run {
                let x = grid.origin.x + from as f64 * grid.cell;
                let w = (to - from) as f64 * grid.cell;
                let _ = write!(paths[band], "M{x:.2} {:.2}h{w:.2}v{side:.2}h-{w:.2}z", -y);
            }
        };
        for col in (0..grid.cols).step_by(stride) {
            let band = band(c, row, col, stride, mean);
            match (&mut run, band) {
                (Some((b, _, to)), Some(now)) if *b == now => *to = col + stride,
                _ => {
                    close(run);
                    run = band.map(|b| (b, col, col + stride));
                }
            }
        }
        close(run);
    }
    let classes = BANDS.iter().map(|b| b.1).chain(["spilt", "spilt dry"]);
    for (class, d) in classes.zip(&paths).filter(|(_, d)| !d.is_empty()) {
        let _ = write!(out, r#"<path class="{class}" d="{d}"/>"#);
    }
    if let Some(w) = c.driest {
        let (x, y, width) = (w.low.x, -w.high.y, w.high.x - w.low.x);
        let _ = write!(
            out,
            r#"<rect class="driest" x="{x:.2}" y="{y:.2}" width="{width:.2}" height="{width:.2}"/>"#
        );
        let _ = write!(
            out,
            r#"<g transform="translate({:.2} {y:.2})"><g class="px" text-anchor="middle"><text y="-4">driest {}</text></g></g>"#,
            x + width / 2.0,
            escape(&w.rate.show(u))
        );
    }
    if let Some((at, rate)) = c.wettest {
        let _ = write!(
            out,
            r#"<g transform="translate({:.2} {:.2})"><g class="px"><path class="wettest" d="M0 -7L7 0L0 7L-7 0Z"/>"#,
            at.x, -at.y
        );
        let _ = write!(out, r#"<text x="10" y="4">wettest {}</text></g></g>"#, escape(&rate.show(u)));
    }
    out.push_str("</g>");
    out
}

/// The band of a block of cells: of the area's by their mean, of others where much is spilt.
fn band(c: &Coverage, row: usize, col: usize, stride: usize, mean: f32) -> Option<usize> {
    let (mut own, mut off, mut dry) = ((0.0f32, 0u32), (0.0f32, 0u32), false);
    for r in row..(row + stride).min(c.grid.rows) {
        for k in col..(col + stride).min(c.grid.cols) {
            let cell = r * c.grid.cols + k;
            match c.under[cell] {
                Under::Area => own = (own.0 + c.rate[cell], own.1 + 1),
                other => {
                    off = (off.0 + c.rate[cell], off.1 + 1);
                    dry |= matches!(other, Under::Dry(_));
                }
            }
        }
    }
    if own.1 >= off.1 {
        let share = own.0 / own.1.max(1) as f32 / mean;
        BANDS.iter().position(|(high, _)| share <= *high)
    } else {
        (off.0 / off.1 as f32 > SPILT * mean).then_some(BANDS.len() + usize::from(dry))
    }
}

/// A proposal with its water, as a small picture of its area.
pub fn layout_picture(plan: &Plan, area: &str, proposal: &Proposal, c: &Coverage) -> String {
    let Some((low, high)) = plan.site.object(area).and_then(fenlo_core::site::SiteObject::bounds) else {
        return String::new();
    };
    let margin = (high.x - low.x).max(high.y - low.y) * 0.06;
    let (w, h) = (high.x - low.x + 2.0 * margin, high.y - low.y + 2.0 * margin);
    let mut out = format!(
        r#"<svg class="board picture" viewBox="{:.2} {:.2} {w:.2} {h:.2}" role="img" aria-label="{} heads and their coverage">"#,
        low.x - margin,
        -high.y - margin,
        proposal.heads.len()
    );
    for thing in &plan.site.objects {
        if let Some(shape) = thing.shape() {
            let _ = write!(
                out,
                r#"<g class="{}"><path d="{}"/></g>"#,
                crate::board::class_of(thing),
                crate::board::shape_path(shape)
            );
        }
    }
    out.push_str(&coverage_map(c, plan.units));
    let r = w.max(h) * 0.012;
    for head in &proposal.heads {
        let tick = head.at.toward(head.facing, 2.6 * r);
        let _ = write!(
            out,
            r#"<circle class="spot" cx="{:.2}" cy="{:.2}" r="{r:.3}"/><path class="spot" d="M{0:.2} {1:.2}L{:.2} {:.2}"/>"#,
            head.at.x, -head.at.y, tick.x, -tick.y
        );
    }
    out.push_str("</svg>");
    out
}
