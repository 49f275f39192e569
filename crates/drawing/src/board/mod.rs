//! The scaled plan. One metre of ground is one unit of the drawing; the sheet's `y` runs up, SVG's
//! down. What should keep its size on the screen stands in a group of class `px`, scaled by the
//! ground under one pixel.

mod beside;
mod drip;
mod heads;
mod pipes;
mod shape;
mod thing;

pub use beside::Beside;
pub use drip::{DRAWN_DOSE_IN, drip};
pub use heads::head;
pub use pipes::{lateral, main};
pub(crate) use shape::{class_of, ring_path, shape_path};
pub use thing::thing;

use crate::colour::written_out;
use crate::svg::escape;
use fenlo_core::assess::Assessment;
use fenlo_core::job::Job;
use fenlo_core::plan::Plan;
use fenlo_core::site::{Form, KeepDry, ObjectKind, SiteObject};
use std::fmt::Write;

/// Rules for the look of the board, for pages and for the file.
pub const BOARD_CSS: &str = include_str!("../board.css");

/// Layers from the ground up: where a thing is drawn. All ground is in one: an island lies on the
/// car park and a house on the lawn, as they were drawn.
pub const LAYERS: [&str; 6] = ["ground", "lines", "plants", "pipes", "heads", "marks"];

/// A box on the ground, metres: left, bottom, right, top.
pub type Frame = (f64, f64, f64, f64);

/// The box that holds everything drawn with a margin round it; a plot of 30 by 20 m when nothing is.
pub fn frame(plan: &Plan) -> Frame {
    let things = plan.site.objects.iter().filter_map(SiteObject::bounds).flat_map(|(a, b)| [a, b]);
    let heads = plan.groups.iter().flat_map(|g| &g.drawn).map(|h| h.at);
    let picture = plan.site.underlay.iter().flat_map(|u| {
        let (w, h) = (f64::from(u.width) * u.pixel.m(), f64::from(u.height) * u.pixel.m());
        [
            u.at,
            u.at.toward(u.degrees, w),
            u.at.toward(u.degrees + 90.0, h),
            u.at.toward(u.degrees, w).toward(u.degrees + 90.0, h),
        ]
    });
    let all = things.chain(heads).chain(picture);
    let start = (f64::INFINITY, f64::INFINITY, f64::NEG_INFINITY, f64::NEG_INFINITY);
    let (l, b, r, t) = all.fold(start, |(l, b, r, t), p| (l.min(p.x), b.min(p.y), r.max(p.x), t.max(p.y)));
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
        "pipes" => {
            let beside = Beside::of(job);
            let mains = job.supplies.iter().map(|s| main(job, assessment, &beside, &s.id));
            let laterals = job.valves.iter().map(|v| lateral(job, assessment, &beside, &v.id));
            let drip = job.groups.iter().filter(|g| g.drip.is_some()).map(|g| drip(job, g));
            drip.chain(mains).chain(laterals).collect()
        }
        _ => job.site.objects.iter().filter(|t| layer_of(t) == layer).map(|t| thing(t, job.units)).collect(),
    }
}

/// The layer of a thing.
pub fn layer_of(thing: &SiteObject) -> &'static str {
    match &thing.what {
        ObjectKind::Area(_) | ObjectKind::Dry(KeepDry { form: Form::Region(_), .. }) => "ground",
        ObjectKind::Dry(_) => "lines",
        ObjectKind::Plant(_) => "plants",
        ObjectKind::Place(_) | ObjectKind::Height(_) | ObjectKind::Note(_) => "marks",
    }
}

/// The picture beneath, as an image that is fetched from `href`.
pub fn underlay(plan: &Plan, href: &str) -> String {
    let Some(u) = &plan.site.underlay else {
        return String::new();
    };
    let (w, h) = (f64::from(u.width) * u.pixel.m(), f64::from(u.height) * u.pixel.m());
    let laid = format!("translate({:.4} {:.4}) rotate({:.4})", u.at.x, -u.at.y, -u.degrees);
    format!(
        r#"<image href="{}" x="0" y="{:.4}" width="{w:.4}" height="{h:.4}" opacity="{:.2}" {stretch} transform="{laid}"/>"#,
        escape(href),
        -h,
        u.strength,
        stretch = r#"preserveAspectRatio="none""#
    )
}

/// The plan to be looked at inside a page that has the board's style: what is under a pixel of the screen is
/// set there (`--mpp`).
pub fn board_inline(job: &Job, assessment: &Assessment) -> String {
    let (l, b, r, t) = frame(job);
    let mut out = format!(
        r#"<svg xmlns="http://www.w3.org/2000/svg" class="board still" viewBox="{l:.3} {:.3} {:.3} {:.3}" role="img"><title>{}</title>"#,
        -t,
        r - l,
        t - b,
        escape(&job.name),
    );
    for name in LAYERS {
        let _ = write!(out, r#"<g class="layer-{name}">{}</g>"#, layer(job, assessment, name));
    }
    out.push_str("</svg>");
    out
}

/// The plan as a file of its own, to scale: one metre of ground is 10 mm of paper (1:100), smaller
/// scales where that would be over two metres.
pub fn board_svg(job: &Job, assessment: &Assessment) -> String {
    let (l, b, r, t) = frame(job);
    let (w, h) = (r - l, t - b);
    let scale =
        [100.0, 200.0, 500.0, 1000.0, 5000.0].into_iter().find(|s| w.max(h) / s <= 2.0).unwrap_or(20_000.0);
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
        let _ = write!(out, r#"<g class="layer-{name}">{}</g>"#, layer(job, assessment, name));
    }
    out.push_str("</svg>\n");
    out
}
