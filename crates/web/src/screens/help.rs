//! Help where it is wanted: how a step is measured, and signs and words to be looked up.

use crate::app::App;
use crate::error::AppError;
use crate::place::SCREENS;
use askama::Template;
use axum::Router;
use axum::extract::Query;
use axum::response::Html;
use axum::routing::get;
use fenlo_core::steps::Step;
use fenlo_core::units::UnitSystem;
use fenlo_words::{Entry, HowTo, found, how_to};
use serde::Deserialize;

pub fn routes() -> Router<App> {
    Router::new().route("/help", get(page)).route("/help/box", get(boxed)).route("/help/found", get(list))
}

#[derive(Deserialize)]
struct Asked {
    /// Path of the screen that somebody is at.
    #[serde(default)]
    at: String,
    #[serde(default)]
    units: UnitSystem,
    /// What is looked up.
    #[serde(default)]
    q: String,
}

struct Shown {
    how: HowTo,
    drawing: String,
    name: &'static str,
}

#[derive(Template)]
#[template(path = "help.html")]
struct Page {
    q: String,
    units: UnitSystem,
    steps: Vec<Shown>,
    found: Vec<&'static Entry>,
}

#[derive(Template)]
#[template(path = "parts/help_box.html")]
struct Boxed {
    step: Option<Shown>,
    units: String,
}

#[derive(Template)]
#[template(path = "parts/help_found.html")]
struct Found {
    found: Vec<&'static Entry>,
    q: String,
}

fn of(step: Step, units: UnitSystem) -> Shown {
    let name = SCREENS.iter().find(|row| row.step == Some(step)).map_or("", |row| row.title);
    Shown { how: how_to(step, units), drawing: fenlo_drawing::how_drawing(step), name }
}

fn short(q: &str) -> String {
    q.chars().filter(|c| !c.is_control()).take(60).collect()
}

async fn page(Query(asked): Query<Asked>) -> Result<Html<String>, AppError> {
    let q = short(&asked.q);
    let page = Page {
        found: found(&q),
        q,
        units: asked.units,
        steps: Step::ALL.into_iter().map(|s| of(s, asked.units)).collect(),
    };
    Ok(Html(page.render()?))
}

/// For the box over a page: the step at hand, if it is one.
async fn boxed(Query(asked): Query<Asked>) -> Result<Html<String>, AppError> {
    let step = SCREENS.iter().find(|row| row.path == asked.at).and_then(|row| row.step);
    let boxed = Boxed { step: step.map(|s| of(s, asked.units)), units: crate::choices::word(&asked.units) };
    Ok(Html(boxed.render()?))
}

async fn list(Query(asked): Query<Asked>) -> Result<Html<String>, AppError> {
    let q = short(&asked.q);
    Ok(Html(Found { found: found(&q), q }.render()?))
}
