//! Nozzles as they are shown.

use super::read::Chart;
use crate::assessed::Assessed;
use crate::choices::{Choice, word};
use crate::error::AppError;
use askama::Template;
use fenlo_core::catalogue::{ArcRule, ChartRow, Kind, Nozzle, OwnNozzle};
use fenlo_core::drip::{LongestRow, row_table};
use fenlo_core::job::Job;
use fenlo_core::layout::LAID_OUT;
use fenlo_core::units::{Flow, Length, Pressure, Rate, UnitSystem};
use fenlo_drawing::{Over, nozzle_curve};
use fenlo_formats::ChartFault;
use fenlo_words::Working;

#[derive(Template)]
#[template(path = "catalogue.html")]
struct Page {
    u: UnitSystem,
    job: i64,
    groups: Vec<KindGroup>,
    detail: String,
    kinds: Vec<Choice>,
    own: usize,
}

struct KindGroup {
    label: String,
    says: String,
    open: bool,
    rows: Vec<Row>,
}

struct Row {
    id: String,
    label: String,
    own: bool,
    picked: bool,
    truck: bool,
    radius: String,
    flow: String,
    rate: String,
    price: String,
}

/// An inlet pressure with the longest rows at each spacing: level, down, up.
type RowsAt = (String, Vec<[String; 3]>);

#[derive(Template)]
#[template(path = "parts/nozzle.html")]
struct Detail {
    job: i64,
    id: String,
    label: String,
    source: String,
    own: bool,
    curves: Vec<String>,
    fit: Option<Working>,
    off: String,
    chart: Vec<(String, String, String, String)>,
    law: Working,
    /// Longest rows: spacings; by inlet pressure a cell for each spacing (level, down, up).
    rows: Option<(Vec<String>, Vec<RowsAt>)>,
    least: String,
    rule: &'static str,
}

#[derive(Template)]
#[template(path = "parts/chart_preview.html")]
struct Preview {
    /// Where it is saved, and what that shows anew.
    save: String,
    shown: &'static str,
    rows: Vec<Sound>,
    faults: Vec<ChartFault>,
    text: String,
    kind: String,
}

struct Sound {
    label: String,
    kind: String,
    rows: usize,
    fit: String,
    off: String,
}

pub fn body(known: &Assessed, pick: Option<&str>) -> Result<String, AppError> {
    let plan = known.job();
    let u = plan.units;
    let c = plan.catalogue();
    let picked = pick.and_then(|id| c.nozzle(id)).or_else(|| c.nozzle("spray-12"));
    let groups = c
        .classes
        .iter()
        .map(|k| KindGroup {
            label: fenlo_words::kind(k.kind).to_owned(),
            says: format!(
                "rated {} at the nozzle, range {} to {}",
                k.nominal.show_round(u),
                k.low.show_round(u),
                k.high.show_round(u)
            ),
            open: picked.is_some_and(|p| p.kind == k.kind),
            rows: c
                .nozzles
                .iter()
                .filter(|n| n.kind == k.kind)
                .map(|n| {
                    let own = plan.nozzles.iter().find(|o| o.id == n.id);
                    Row {
                        id: n.id.clone(),
                        label: fenlo_words::nozzle(n, u),
                        own: own.is_some(),
                        picked: picked.is_some_and(|p| p.id == n.id),
                        truck: n.favourite,
                        radius: n.pattern.map_or_else(
                            || n.radius.map_or("–".into(), |r| r.show(u)),
                            |p| format!("{} × {}", p.width.show(u), p.length.show(u)),
                        ),
                        flow: if n.kind.is_drip() { drop_flow(n.flow, u) } else { n.flow.show(u) },
                        rate: rate_of(n).map_or("–".into(), |r| r.show(u)),
                        price: own.and_then(|o| o.price).map_or(String::new(), |p| p.to_string()),
                    }
                })
                .collect(),
        })
        .collect();
    let kinds = kinds().into_iter().map(|(value, label)| Choice {
        chosen: value == word(&Kind::Spray),
        value,
        label,
    });
    Ok(Page {
        u,
        job: known.open.id,
        groups,
        detail: picked.map_or(Ok(String::new()), |n| detail(known, n))?,
        kinds: kinds.collect(),
        own: plan.nozzles.len(),
    }
    .render()?)
}

/// Kinds that have charts: word and name.
pub fn kinds() -> Vec<(String, String)> {
    let kind = |k: &Kind| (word(k), fenlo_words::kind(*k).to_owned());
    LAID_OUT.iter().map(kind).collect()
}

/// Emitters are sold by the hour.
fn drop_flow(q: Flow, u: UnitSystem) -> String {
    match u {
        UnitSystem::Us => format!("{:.2} gph", q.gpm() * 60.0),
        UnitSystem::Metric | UnitSystem::MetricBar => format!("{:.1} L/h", q.lpm() * 60.0),
    }
}

/// Head to head: full-circle flow over a square as wide as the throw, or over the strip.
fn rate_of(n: &Nozzle) -> Option<Rate> {
    let m2 =
        n.pattern.map_or_else(|| n.radius.map(|r| r.m().powi(2)), |p| Some(p.width.m() * p.length.m()))?;
    (!n.kind.is_drip() && n.kind != Kind::Bubbler)
        .then(|| Rate::from_mmph(60.0 * n.flow.lpm() / m2.max(0.01)))
}

pub fn detail(known: &Assessed, n: &Nozzle) -> Result<String, AppError> {
    let plan = known.job();
    let u = plan.units;
    let kind = plan.catalogue().class(n.kind);
    let own = plan.nozzles.iter().find(|o| o.id == n.id);
    let rows: &[ChartRow] = own.map_or(&[], |o| &o.chart);
    let fit = own.and_then(|o| Some((o.fit(kind)?, o.chart.len())));
    let throws = n.radius.is_some() && !n.kind.is_drip();
    let over: &[Over] = if throws { &[Over::Flow, Over::Throw, Over::Rate] } else { &[Over::Flow] };
    let exponent = n.exponent.unwrap_or(kind.exponent);
    Ok(Detail {
        job: known.open.id,
        id: n.id.clone(),
        label: fenlo_words::nozzle(n, u),
        source: if own.is_some() {
            format!("{}, from your chart", fenlo_words::kind(kind.kind))
        } else {
            format!(
                "{}, typical values, no brand. Replace with your manufacturer's chart.",
                fenlo_words::kind(kind.kind)
            )
        },
        own: own.is_some(),
        least: Pressure::from_psi(8.5).show(u),
        rule: if u.is_metric() { "60 m and 760 L/h" } else { "200 ft and 200 gph" },
        rows: row_table(plan.catalogue(), n).map(|t| {
            let whole = |l: Length| match u.is_metric() {
                true => format!("{:.0} m", l.m()),
                false => format!("{:.0} ft", l.ft()),
            };
            let cell = |rows: &[LongestRow; 3]| [0, 1, 2].map(|i| whole(rows[i].length));
            let by = (t.rows.iter()).map(|(p, cells)| (p.show_round(u), cells.iter().map(cell).collect()));
            (t.spacings.iter().map(|s| s.show_tape(u)).collect(), by.collect())
        }),
        curves: over.iter().map(|o| nozzle_curve(n, kind, rows, *o, u)).collect(),
        off: fit.as_ref().map_or(String::new(), |(f, _)| {
            format!(
                "flow within {:.1}%, radius within {:.1}% of the chart",
                f.flow_off * 100.0,
                f.radius_off * 100.0
            )
        }),
        fit: fit.map(|(f, rows)| fenlo_words::fit(&f, rows, kind, u)),
        chart: rows
            .iter()
            .map(|r| (r.pressure.show(u), format!("{}°", r.arc), r.radius.show(u), r.flow.show(u)))
            .collect(),
        law: Working::new(
            "q = q₀ · (p/p₀)^x; radius = R₀ · (p/p₀)^0.3 below rated pressure, at most 3% more above",
            "orifice: x = ½; pressure-compensating emitter: x = 0",
        )
        .with(
            "q₀",
            format!(
                "{}{}",
                n.flow.show(u),
                if n.arc_rule == ArcRule::Proportional {
                    ", full circle, in proportion to the arc"
                } else {
                    ""
                }
            ),
        )
        .with("p₀", kind.nominal.show_round(u))
        .with("x", format!("{exponent:.2}"))
        .gives(n.radius.map_or_else(|| n.flow.show(u), |r| format!("{} to {}", n.flow.show(u), r.show(u)))),
    }
    .render()?)
}

/// What a chart would bring, and what of it can't be used.
pub fn preview(plan: &Job, save: String, shown: &'static str, chart: Chart) -> Result<String, AppError> {
    let (u, c) = (plan.units, plan.catalogue());
    let sound = |n: &OwnNozzle| {
        let class = c.class(n.kind);
        let fit = n.fit(class);
        Sound {
            label: n.label.clone(),
            kind: fenlo_words::kind(class.kind).to_owned(),
            rows: n.chart.len(),
            fit: fit.map_or("–".into(), |f| {
                format!(
                    "{} · {} at {}, x = {:.2}",
                    f.flow.show(u),
                    f.radius.show(u),
                    class.nominal.show_round(u),
                    f.exponent
                )
            }),
            off: fit.map_or("–".into(), |f| {
                format!("{:.1}% · {:.1}%", f.flow_off * 100.0, f.radius_off * 100.0)
            }),
        }
    };
    Ok(Preview {
        save,
        shown,
        rows: chart.nozzles.iter().map(sound).collect(),
        faults: chart.faults,
        text: chart.text,
        kind: chart.kind,
    }
    .render()?)
}
