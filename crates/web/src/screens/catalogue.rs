//! Nozzles: the built-in classes and the house's own, how each goes with the pressure, charts in and
//! out, what is on the truck.

use super::details::base_of;
use super::ground::gestures::sentence;
use super::ground::sheet::LAID_OUT;
use super::{render_body, render_page};
use crate::app::App;
use crate::assessed::Assessed;
use crate::choices::{Choice, word};
use crate::error::AppError;
use crate::fields::{Fields, Pairs};
use crate::respond::refuse;
use crate::shell::{Here, Screen};
use askama::Template;
use axum::extract::{Form, Path, Query, State};
use axum::http::header;
use axum::response::{Html, IntoResponse, Response};
use fenlo_core::catalogue::{ArcRule, Catalogue, ChartRow, Kind, Nozzle, OwnNozzle};
use fenlo_core::plan::{Edit, Plan};
use fenlo_core::units::{Flow, Length, Pressure, Rate, UnitSystem};
use fenlo_drawing::{Over, nozzle_curve};
use fenlo_formats::{ChartFault, read_chart, write_chart};
use fenlo_words::Working;
use serde::Deserialize;

#[derive(Deserialize)]
pub struct Pick {
    nozzle: Option<String>,
}

#[derive(Template)]
#[template(path = "catalogue.html")]
struct Page {
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
}

#[derive(Template)]
#[template(path = "parts/chart_preview.html")]
struct Preview {
    job: i64,
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
            label: k.label.clone(),
            says: format!(
                "{} at the nozzle, usable {} to {}",
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
                        label: n.label.clone(),
                        own: own.is_some(),
                        picked: picked.is_some_and(|p| p.id == n.id),
                        truck: n.favourite,
                        radius: n.pattern.map_or_else(
                            || n.radius.map_or("–".into(), |r| r.show(u)),
                            |p| format!("{} × {}", p.width.show(u), p.length.show(u)),
                        ),
                        flow: if n.kind.is_drip() {
                            drop_flow(n.flow, u)
                        } else {
                            n.flow.show(u)
                        },
                        rate: rate_of(n).map_or("–".into(), |r| r.show(u)),
                        price: own.and_then(|o| o.price).map_or(String::new(), |p| p.to_string()),
                    }
                })
                .collect(),
        })
        .collect();
    let kinds = LAID_OUT
        .iter()
        .map(|k| Choice {
            value: word(k),
            label: c.class(*k).label.clone(),
            chosen: *k == Kind::Spray,
        })
        .collect();
    Ok(Page {
        job: known.open.id,
        groups,
        detail: picked.map_or(Ok(String::new()), |n| detail(known, n))?,
        kinds,
        own: plan.nozzles.len(),
    }
    .render()?)
}

/// Emitters are sold by the hour.
fn drop_flow(q: Flow, u: UnitSystem) -> String {
    match u {
        UnitSystem::Us => format!("{:.2} gph", q.gpm() * 60.0),
        UnitSystem::Metric => format!("{:.1} L/h", q.lpm() * 60.0),
    }
}

/// Head to head: full-circle flow over a square as wide as the throw, or over the strip.
fn rate_of(n: &Nozzle) -> Option<Rate> {
    let m2 = n.pattern.map_or_else(
        || n.radius.map(|r| r.m().powi(2)),
        |p| Some(p.width.m() * p.length.m()),
    )?;
    (!n.kind.is_drip() && n.kind != Kind::Bubbler)
        .then(|| Rate::from_mmph(60.0 * n.flow.lpm() / m2.max(0.01)))
}

fn detail(known: &Assessed, n: &Nozzle) -> Result<String, AppError> {
    let plan = known.job();
    let u = plan.units;
    let kind = plan.catalogue().class(n.kind);
    let own = plan.nozzles.iter().find(|o| o.id == n.id);
    let rows: &[ChartRow] = own.map_or(&[], |o| &o.chart);
    let fit = own.and_then(|o| Some((o.fit(kind)?, o.chart.len())));
    let throws = n.radius.is_some() && !n.kind.is_drip();
    let over: &[Over] = if throws {
        &[Over::Flow, Over::Throw, Over::Rate]
    } else {
        &[Over::Flow]
    };
    let exponent = n.exponent.unwrap_or(kind.exponent);
    Ok(Detail {
        job: known.open.id,
        id: n.id.clone(),
        label: n.label.clone(),
        source: if own.is_some() {
            format!("{}, from your own chart", kind.label)
        } else {
            format!(
                "{}, typical of the class: no one make. Your maker's chart replaces it.",
                kind.label
            )
        },
        own: own.is_some(),
        curves: over.iter().map(|o| nozzle_curve(n, kind, rows, *o, u)).collect(),
        off: fit.as_ref().map_or(String::new(), |(f, _)| {
            format!(
                "flow within {:.1} %, throw within {:.1} % of its rows",
                f.flow_off * 100.0,
                f.radius_off * 100.0
            )
        }),
        fit: fit.map(|(f, rows)| fenlo_words::fit(&f, rows, kind, u)),
        chart: rows
            .iter()
            .map(|r| {
                (
                    r.pressure.show(u),
                    format!("{}°", r.arc),
                    r.radius.show(u),
                    r.flow.show(u),
                )
            })
            .collect(),
        law: Working::new(
            "q = q₀ · (p/p₀)^x; throw = R₀ · (p/p₀)^0.3 below nominal, at most 3 % more above",
            "a nozzle is an orifice: x = ½; compensating emitters: x = 0",
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
        .gives(n.radius.map_or_else(
            || n.flow.show(u),
            |r| format!("{} to {}", n.flow.show(u), r.show(u)),
        )),
    }
    .render()?)
}

/// One nozzle beside the list.
pub async fn nozzle(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(pick): Query<Pick>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let found = known
        .job()
        .catalogue()
        .nozzle(pick.nozzle.as_deref().unwrap_or_default())
        .ok_or(AppError::NotFound)?;
    Ok(Html(detail(&known, found)?).into_response())
}

pub async fn page(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(pick): Query<Pick>,
) -> Result<Response, AppError> {
    render_page(app.job(job).await?, Here::at(Screen::Catalogue, pick.nozzle)).await
}

/// A name in files for a nozzle of the house.
fn id_of(plan: &Plan, label: &str, kind: Option<Kind>) -> String {
    if let Some(same) = plan
        .nozzles
        .iter()
        .find(|n| n.label == label && kind.is_none_or(|k| n.kind == k))
    {
        return same.id.clone();
    }
    let slug: String = label
        .to_lowercase()
        .chars()
        .map(|c| if c.is_ascii_alphanumeric() { c } else { '-' })
        .take(40)
        .collect();
    let base = format!("own-{}", slug.trim_matches('-'));
    let taken =
        |id: &str| plan.nozzles.iter().any(|n| n.id == id) || Catalogue::builtin().nozzle(id).is_some();
    (1..)
        .map(|i| {
            if i == 1 {
                base.clone()
            } else {
                format!("{base}-{i}")
            }
        })
        .find(|id| !taken(id))
        .unwrap_or(base)
}

fn chart_of(plan: &Plan, f: &Fields) -> (Vec<OwnNozzle>, Vec<ChartFault>, String, String) {
    let (text, kind) = (f.get("chart").to_owned(), f.text("kind"));
    let of_kind = LAID_OUT.into_iter().find(|k| word(k) == kind);
    let (mut nozzles, faults) = read_chart(&text, of_kind, |name| id_of(plan, name, None));
    // Two names may fall on one id.
    for i in 1..nozzles.len() {
        while nozzles[..i].iter().any(|n| n.id == nozzles[i].id) {
            nozzles[i].id.push('x');
        }
    }
    (nozzles, faults, text, kind)
}

/// What a chart would bring, and what of it can't be used. Nothing is saved.
pub async fn preview(
    State(app): State<App>,
    Path(job): Path<i64>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let plan = known.job();
    let f = Fields::new(pairs, plan.units);
    let (nozzles, faults, text, kind) = chart_of(plan, &f);
    let u = plan.units;
    let c = plan.catalogue();
    let rows = nozzles
        .iter()
        .map(|n| {
            let fit = n.fit(c.class(n.kind));
            Sound {
                label: n.label.clone(),
                kind: c.class(n.kind).label.clone(),
                rows: n.chart.len(),
                fit: fit.map_or("–".into(), |f| {
                    format!(
                        "{} · {} at {}, x = {:.2}",
                        f.flow.show(u),
                        f.radius.show(u),
                        c.class(n.kind).nominal.show_round(u),
                        f.exponent
                    )
                }),
                off: fit.map_or("–".into(), |f| {
                    format!("{:.1} % · {:.1} %", f.flow_off * 100.0, f.radius_off * 100.0)
                }),
            }
        })
        .collect();
    Ok(Html(
        Preview {
            job,
            rows,
            faults,
            text,
            kind,
        }
        .render()?,
    )
    .into_response())
}

/// Saves the nozzles of a chart that have no fault.
pub async fn save(
    State(app): State<App>,
    Path(job): Path<i64>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let f = Fields::new(pairs, known.job().units);
    let (nozzles, ..) = chart_of(known.job(), &f);
    let first = nozzles.first().map(|n| n.id.clone());
    if first.is_none() {
        return Err(AppError::Bad(
            "that chart holds no nozzle that can be used".into(),
        ));
    }
    let edits = nozzles.into_iter().map(Edit::put).collect();
    let known = app.edit(job, base_of(&f, &known), Edit::batch(edits)).await?;
    render_body(known, Here::at(Screen::Catalogue, first)).await
}

const FIELDS: [&str; 7] = ["name", "kind", "pressure", "arc", "radius", "flow", "price"];

/// One typed row: a new nozzle, or one more row of the one of that name.
pub async fn add(
    State(app): State<App>,
    Path(job): Path<i64>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let plan = known.job();
    let mut f = Fields::new(pairs, plan.units);
    let label = f.text("name");
    if label.is_empty() {
        f.fault("name", "needs a name");
    }
    let kind = f.text("kind");
    let kind = LAID_OUT
        .into_iter()
        .find(|k| word(k) == kind)
        .unwrap_or(Kind::Spray);
    let arc = f.count("arc");
    if !(20..=360).contains(&arc) && f.errors.iter().all(|e| e.0 != "arc") {
        f.fault("arc", "is from 20 to 360 degrees");
    }
    let row = ChartRow {
        pressure: f.pressure("pressure"),
        arc: arc.min(360) as u16,
        radius: f.length("radius"),
        flow: f.flow("flow"),
    };
    let price = f.text("price");
    let price = if price.is_empty() {
        None
    } else {
        let read = price.parse().ok();
        if read.is_none() {
            f.fault("price", "is a number, e.g. 1.85");
        }
        read
    };
    let positive = [
        ("pressure", row.pressure > Pressure::ZERO),
        ("radius", row.radius > Length::ZERO),
        ("flow", row.flow > Flow::ZERO),
    ];
    for (field, sound) in positive {
        if !sound && f.errors.iter().all(|e| e.0 != field) {
            f.fault(field, "must be more than zero");
        }
    }
    if !f.errors.is_empty() {
        return Ok(refuse("noz", &FIELDS, &f.errors));
    }
    let id = id_of(plan, &label, Some(kind));
    let mut nozzle = plan
        .nozzles
        .iter()
        .find(|n| n.id == id)
        .cloned()
        .unwrap_or(OwnNozzle {
            id: id.clone(),
            label,
            kind,
            chart: Vec::new(),
            price: None,
        });
    nozzle
        .chart
        .retain(|r| (r.pressure, r.arc) != (row.pressure, row.arc));
    nozzle.chart.push(row);
    nozzle.price = price.or(nozzle.price);
    match app.edit(job, base_of(&f, &known), Edit::put(nozzle)).await {
        Ok(known) => render_body(known, Here::at(Screen::Catalogue, Some(id))).await,
        Err(AppError::Faults(faults)) => Ok(refuse(
            "noz",
            &FIELDS,
            &[(
                "form".to_owned(),
                faults.first().map_or_else(String::new, |x| sentence(&x.message)),
            )],
        )),
        Err(error) => Err(error),
    }
}

/// Takes a nozzle of the house away.
pub async fn remove(
    State(app): State<App>,
    Path(job): Path<i64>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let f = Fields::new(pairs, known.job().units);
    let id = f.text("id");
    let users: Vec<&str> = known
        .job()
        .groups
        .iter()
        .filter(|g| g.nozzle == id)
        .map(|g| g.name.as_str())
        .collect();
    if !users.is_empty() {
        return Err(AppError::Bad(format!(
            "heads of {} use it: give them another nozzle first",
            users.join(", ")
        )));
    }
    let known = app
        .edit(job, base_of(&f, &known), Edit::remove::<OwnNozzle>(id))
        .await?;
    render_body(known, Here::at(Screen::Catalogue, None)).await
}

/// Puts a nozzle on the truck, or takes it off.
pub async fn truck(
    State(app): State<App>,
    Path(job): Path<i64>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let f = Fields::new(pairs, known.job().units);
    let id = f.text("id");
    let mut ids = known.job().favourites.clone();
    ids.retain(|i| *i != id);
    if f.ticked("on") && known.job().catalogue().nozzle(&id).is_some() {
        ids.push(id.clone());
    }
    let known = app
        .edit(
            job,
            base_of(&f, &known),
            Edit::SetFavourites(fenlo_core::plan::SetFavourites { ids }),
        )
        .await?;
    render_body(known, Here::at(Screen::Catalogue, Some(id))).await
}

/// The house's own nozzles as a chart.
pub async fn download(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let headers = [
        (header::CONTENT_TYPE, "text/csv; charset=utf-8"),
        (
            header::CONTENT_DISPOSITION,
            "attachment; filename=\"nozzles.csv\"",
        ),
    ];
    Ok((headers, write_chart(&known.job().nozzles)).into_response())
}
