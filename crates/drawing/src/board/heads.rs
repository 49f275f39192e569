//! Heads with their true throw, and the pipes that reach them.

use crate::svg::escape;
use fenlo_core::assess::Assessment;
use fenlo_core::coverage::Pattern;
use fenlo_core::job::Job;
use fenlo_core::plan::{DrawnHead, HeadGroup};
use fenlo_core::zone::{HeadResult, HeadState};
use std::fmt::Write;

/// One head, its throw to scale at the pressure it gets, with its id as `t-…`.
pub fn head(job: &Job, assessment: &Assessment, group: &HeadGroup, h: &DrawnHead) -> String {
    let catalogue = job.catalogue();
    let u = job.units;
    let number = h.valve.as_deref().map_or(0, |v| job.valve_number(v));
    let listed: u32 = group.listed.iter().map(|l| l.count).sum();
    let index = group.drawn.iter().position(|d| d.id == h.id).map(|i| i as u32 + listed);
    let zone = h.valve.as_deref().and_then(|v| assessment.zone(v)).and_then(|z| z.zone.as_ref().ok());
    let result =
        zone.and_then(|z| z.heads.iter().find(|r| r.head.group == group.id && Some(r.head.index) == index));
    if group.drip.is_some() {
        return inlet(job, group, h, number, result);
    }
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
            let low = r.state() == HeadState::Starved;
            (
                low,
                format!(
                    "{}, rated {}, radius {}",
                    r.nozzle.show(u),
                    r.band.best.show_round(u),
                    throw.show(u)
                ),
            )
        }
        None => (false, format!("no valve, radius {} at rated pressure", throw.show(u))),
    };
    let valve = if number > 0 { format!("valve {number}, ") } else { String::new() };
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
        if strip.is_some() { r#" data-strip="yes""# } else { "" },
        escape(&title)
    );
    let _ = write!(
        out,
        r#"<path class="throw" d="{}"/>"#,
        strip.map_or_else(|| sector(h, throw.m()), |p| strip_path(h, p))
    );
    let _ = write!(out, r#"<g transform="translate({:.3} {:.3})"><g class="px">"#, h.at.x, -h.at.y);
    let (dx, dy) = (h.facing.to_radians().cos() * 8.0, -h.facing.to_radians().sin() * 8.0);
    if low {
        out.push_str(r#"<circle class="alarm" r="11"/>"#);
        if let Some(r) = result {
            let _ = write!(
                out,
                r#"<text x="14" y="-8">{} · needs {}</text>"#,
                escape(&r.nozzle.show(u)),
                escape(&r.band.best.show_round(u))
            );
        }
    }
    let _ = write!(
        out,
        r#"<circle class="ring" r="4.6"/><line class="tick" x2="{dx:.1}" y2="{dy:.1}"/>{}</g></g></g>"#,
        if h.locked { r#"<rect class="lock" x="-2" y="-2" width="4" height="4"/>"# } else { "" }
    );
    out
}

/// Where pipe reaches drip.
fn inlet(job: &Job, group: &HeadGroup, h: &DrawnHead, number: usize, result: Option<&HeadResult>) -> String {
    let u = job.units;
    let low = result.is_some_and(|r| r.state() == HeadState::Starved);
    let says = match result {
        Some(r) => format!("valve {number}, {} to {} at the emitters", r.nozzle.number(u), r.highest.show(u)),
        None if number == 0 => "no valve".to_owned(),
        None => format!("valve {number}"),
    };
    let colour = if number == 0 { 0 } else { (number - 1) % 8 + 1 };
    let mut out = format!(
        r#"<g id="t-{id}" class="thing head inlet z{colour}{}" data-id="{id}" data-layer="heads" data-at="{},{}""#,
        if low { " low" } else { "" },
        h.at.x,
        h.at.y,
        id = escape(&h.id)
    );
    let _ = write!(
        out,
        r#" data-strip="yes" data-nozzle="{}" data-valve="{}"><title>{}</title>"#,
        escape(&group.nozzle),
        escape(h.valve.as_deref().unwrap_or("")),
        escape(&format!("Inlet of {}, {says}", group.name))
    );
    let alarm = match result.filter(|_| low) {
        Some(r) => format!(
            r#"<circle class="alarm" r="11"/><text x="14" y="-8">{} · needs {}</text>"#,
            escape(&r.nozzle.show(u)),
            escape(&r.band.least.show_round(u))
        ),
        None => String::new(),
    };
    let _ = write!(
        out,
        r#"<g transform="translate({:.3} {:.3})"><g class="px">{alarm}<rect class="ring" x="-4.6" y="-4.6"
          width="9.2" height="9.2"/></g></g></g>"#,
        h.at.x, -h.at.y
    );
    out
}

fn strip_path(h: &DrawnHead, pattern: Pattern) -> String {
    let corners = pattern
        .corners()
        .unwrap_or_default()
        .map(|(ahead, left)| h.at.toward(h.facing, ahead).toward(h.facing + 90.0, left));
    let d: Vec<String> = corners.iter().map(|p| format!("{:.3} {:.3}", p.x, -p.y)).collect();
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
