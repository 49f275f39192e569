//! Everything on the board as a table.

use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::error::AppError;
use askama::Template;
use axum::extract::{Path, Query, State};
use axum::response::{Html, IntoResponse, Response};
use fenlo_core::site::{ObjectKind, SiteObject};
use fenlo_core::terms::{Lang, term};
use fenlo_core::units::{Length, Surface};
use serde::Deserialize;

#[derive(Template)]
#[template(path = "parts/board_list.html")]
struct List {
    rows: Vec<Row>,
    total: usize,
    page: usize,
    pages: usize,
}

struct Row {
    id: String,
    kind: String,
    name: String,
    size: String,
    round: String,
    at: String,
}

/// Rows shown at once.
const PAGE: usize = 100;

#[derive(Deserialize)]
pub struct At {
    #[serde(default)]
    page: usize,
}

pub async fn page(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(at): Query<At>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    compute(move || Ok(Html(html(&known, at.page)?).into_response())).await?
}

fn html(known: &Assessed, page: usize) -> Result<String, AppError> {
    let plan = known.job();
    let heads = plan.groups.iter().flat_map(|g| g.drawn.iter().map(move |h| (g, h)));
    let piping = &plan.piping;
    let total = plan.site.objects.len() + heads.clone().count() + piping.legs.len() + piping.joints.len();
    let pages = total.div_ceil(PAGE).max(1);
    let page = page.min(pages - 1);
    let u = plan.units;
    let at = |x: f64, y: f64| {
        format!("{} right, {} up", Length::from_m(x).show_tape(u), Length::from_m(y).show_tape(u))
    };
    let things = plan.site.objects.iter().map(|t| Row {
        id: t.id.clone(),
        kind: t.kind_word().to_owned(),
        name: t.name.clone(),
        size: size(t, u),
        round: t
            .shape()
            .map(|s| Length::from_m(s.perimeter()).show_tape(u))
            .or_else(|| t.line().map(|l| Length::from_m(l.length()).show_tape(u)))
            .unwrap_or_default(),
        at: t.bounds().map_or_else(String::new, |(low, _)| at(low.x, low.y)),
    });
    let heads = heads.map(|(g, h)| Row {
        id: h.id.clone(),
        kind: plan
            .catalogue()
            .nozzle(&g.nozzle)
            .map_or_else(|| "Head".to_owned(), |n| fenlo_words::nozzle(n, u)),
        name: g.name.clone(),
        size: format!("{}°, direction {:.0}°", h.arc, h.facing),
        round: h
            .valve
            .as_deref()
            .map_or("no valve".to_owned(), |v| format!("valve {}", plan.valve_number(v))),
        at: at(h.at.x, h.at.y),
    });
    let pipes = piping.legs.iter().map(|leg| {
        let way = plan.way_of(leg).unwrap_or_default();
        let metres: f64 = way.windows(2).map(|w| w[0].distance(w[1])).sum();
        Row {
            id: leg.id.clone(),
            kind: term(if leg.is_main() { "pipe.main" } else { "pipe.lateral" }, Lang::En).to_owned(),
            name: leg.valve().map_or_else(String::new, |v| format!("valve {}", plan.valve_number(v))),
            size: plan.catalogue().pipe(&leg.pipe).map_or_else(|| leg.pipe.to_string(), |p| p.title()),
            round: Length::from_m(metres).show_tape(u),
            at: way.first().map_or_else(String::new, |p| at(p.x, p.y)),
        }
    });
    let joints = piping.joints.iter().map(|joint| Row {
        id: joint.id.clone(),
        kind: "Pipe joint".to_owned(),
        name: String::new(),
        size: crate::choices::word(&joint.kind),
        round: String::new(),
        at: at(joint.at.x, joint.at.y),
    });
    let rows = things.chain(heads).chain(pipes).chain(joints).skip(page * PAGE).take(PAGE).collect();
    Ok(List { rows, total, page, pages }.render()?)
}

fn size(thing: &SiteObject, u: fenlo_core::units::UnitSystem) -> String {
    match &thing.what {
        ObjectKind::Plant(p) => format!("{} × {} wide", p.count, p.canopy.show_tape(u)),
        ObjectKind::Height(h) => h.height.show(u),
        ObjectKind::Note(n) => n.text.clone(),
        _ => thing.shape().map(|s| Surface::from_m2(s.area_m2()).show(u)).unwrap_or_default(),
    }
}
