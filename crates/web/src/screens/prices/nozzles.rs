//! The company's nozzles: what all jobs may begin with, and what is on the truck.

use super::super::catalogue::{read, sifted, view};
use crate::app::{App, compute};
use crate::error::AppError;
use crate::fields::Fields;
use crate::uploads::give;
use askama::Template;
use axum::Form;
use axum::extract::State;
use axum::response::{Html, IntoResponse, Response};
use fenlo_core::catalogue::Catalogue;
use fenlo_core::job::Job;
use fenlo_core::pricing::HouseNozzles;
use fenlo_core::units::UnitSystem;
use fenlo_formats::write_chart;

/// Whatever a job writes in.
const BOTH: [UnitSystem; 2] = [UnitSystem::Us, UnitSystem::Metric];

#[derive(Template)]
#[template(path = "parts/prices_nozzles.html")]
struct Section {
    rows: Vec<Row>,
    kinds: Vec<(String, String)>,
}

struct Row {
    id: String,
    label: String,
    kind: String,
    /// At the nominal pressure of its kind, in either system.
    flow: [String; 2],
    radius: [String; 2],
    price: String,
    truck: bool,
    /// It can be taken away: built-in ones only leave the truck.
    own: bool,
}

/// The section as it stands.
pub fn section(house: &HouseNozzles) -> Result<String, AppError> {
    let job = house.alone().map_err(|e| AppError::Bad(e.to_string()))?;
    let c = job.catalogue();
    let own = |id: &str| house.nozzles.iter().find(|n| n.id == id);
    let shown = c.nozzles.iter().filter(|n| own(&n.id).is_some() || house.truck.contains(&n.id));
    let row = |n: &fenlo_core::catalogue::Nozzle| Row {
        id: n.id.clone(),
        label: own(&n.id).map_or_else(|| fenlo_words::nozzle(n, UnitSystem::Us), |o| o.label.clone()),
        kind: fenlo_words::kind(n.kind).to_owned(),
        flow: BOTH.map(|u| n.flow.show(u)),
        radius: BOTH.map(|u| n.radius.map_or_else(String::new, |r| r.show(u))),
        price: own(&n.id).and_then(|o| o.price).map_or_else(String::new, |p| p.to_string()),
        truck: house.truck.contains(&n.id),
        own: own(&n.id).is_some(),
    };
    let section = Section { rows: shown.map(row).collect(), kinds: view::kinds() };
    Ok(section.render()?)
}

/// Keeps what was changed, and shows it.
async fn kept(app: &App, house: HouseNozzles) -> Result<Response, AppError> {
    let shown = section(&house)?;
    app.store.keep_nozzles(&house).await?;
    Ok(Html(shown).into_response())
}

fn alone(house: &HouseNozzles) -> Result<Job, AppError> {
    house.alone().map_err(|e| AppError::Bad(e.to_string()))
}

type Pairs = Form<Vec<(String, String)>>;

/// What a chart would bring; nothing is saved.
pub async fn look(State(app): State<App>, Form(pairs): Pairs) -> Result<Response, AppError> {
    let fields = Fields::new(pairs, UnitSystem::Us);
    let sifted = sifted(&app, &fields).await?;
    let house = app.store.house_nozzles().await?;
    compute(move || {
        let job = alone(&house)?;
        let chart = read::chart(&job, &fields, sifted);
        let save = "/prices/nozzles/save".to_owned();
        Ok(Html(view::preview(&job, save, "#nozzles", chart)?).into_response())
    })
    .await?
}

/// Keeps the nozzles of a chart that have no fault, over those of the same name.
pub async fn save(State(app): State<App>, Form(pairs): Pairs) -> Result<Response, AppError> {
    let fields = Fields::new(pairs, UnitSystem::Us);
    let sifted = sifted(&app, &fields).await?;
    let mut house = app.store.house_nozzles().await?;
    let alone = alone(&house)?;
    let new = read::chart(&alone, &fields, sifted).nozzles;
    if new.is_empty() {
        return Err(AppError::Bad("the chart has no usable nozzle".into()));
    }
    house.nozzles.retain(|n| new.iter().all(|m| m.id != n.id));
    house.nozzles.extend(new);
    kept(&app, house).await
}

/// Takes a nozzle away: jobs that have it keep it.
pub async fn remove(State(app): State<App>, Form(pairs): Pairs) -> Result<Response, AppError> {
    let f = Fields::new(pairs, UnitSystem::Us);
    let mut house = app.store.house_nozzles().await?;
    house.nozzles.retain(|n| n.id != f.get("id"));
    house.truck.retain(|id| id != f.get("id"));
    kept(&app, house).await
}

/// Puts a nozzle on the truck, or takes it off.
pub async fn truck(State(app): State<App>, Form(pairs): Pairs) -> Result<Response, AppError> {
    let f = Fields::new(pairs, UnitSystem::Us);
    let mut house = app.store.house_nozzles().await?;
    let id = f.text("id");
    let known = Catalogue::builtin().nozzle(&id).is_some() || house.nozzles.iter().any(|n| n.id == id);
    house.truck.retain(|t| *t != id);
    if f.ticked("on") && known {
        house.truck.push(id);
    }
    kept(&app, house).await
}

pub async fn csv(State(app): State<App>) -> Result<Response, AppError> {
    let chart = write_chart(&app.store.house_nozzles().await?.nozzles);
    Ok(give("nozzles", "csv", "text/csv; charset=utf-8", chart))
}
