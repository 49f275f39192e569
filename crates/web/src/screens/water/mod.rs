//! Water: readings, the chain of devices, the supply curve, the design flow by each method.

mod read;
mod view;

use super::{render_body, render_page};
use crate::app::App;
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::fields::{Fields, Pairs};
use crate::place::{Here, Screen};
use crate::respond::Fragments;
use crate::submit::{FormAt, Sent, submit};
use axum::Router;
use axum::extract::{Path, Query, State};
use axum::http::HeaderMap;
use axum::response::Response;
use axum::routing::{get, post};
use fenlo_core::plan::{Edit, Plan, Supply};
use serde::Deserialize;

pub use view::body;

pub fn routes() -> Router<App> {
    let supply = Router::new()
        .route("/source", post(save_source))
        .route("/extras", post(save_extras))
        .route("/remove", post(remove_supply))
        .route("/pin", post(pin))
        .route("/read-after", post(read_after))
        .route("/readings/new", post(add_reading))
        .route("/readings/{index}", post(save_reading))
        .route("/readings/{index}/remove", post(remove_reading))
        .route("/chain/new", post(add_part))
        .route("/chain/{part}", post(save_part))
        .route("/chain/{part}/{way}", post(move_part));
    Router::new()
        .route("/water", get(page))
        .route("/water/add", post(add_supply))
        .nest("/water/{supply}", supply)
}

#[derive(Deserialize)]
struct Pick {
    supply: Option<String>,
}

async fn page(
    State(app): State<App>,
    headers: HeaderMap,
    Path(job): Path<i64>,
    Query(pick): Query<Pick>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    view::find(&known, pick.supply.as_deref())?;
    render_page(&app, &headers, known, Here::picked(Screen::Water, pick.supply)).await
}

/// What an edit changes on the page: figures always, lists where their shape changed.
#[derive(PartialEq, Clone, Copy)]
enum Show {
    Figures,
    Lists,
}

fn fragments(known: &Assessed, supply: &str, show: Show) -> Result<Fragments, AppError> {
    let (supply, water) = view::find(known, Some(supply))?;
    let mut out = Fragments::of(known, &Here::picked(Screen::Water, supply.id.clone()))?;
    out.put("w-design", &view::design(known, supply, water)?);
    out.put("w-curve", &view::curve(known, water)?);
    out.put("w-findings", &view::checks(known, supply, water)?);
    if show == Show::Lists {
        out.put("w-source", &view::source(known, supply)?);
        out.put("w-readings", &view::readings(known, supply)?);
        out.put("w-chain", &view::chain(known, supply, water)?);
    }
    Ok(out)
}

/// One form of a connection that is there: where it stands, and what it changes.
struct OnSupply {
    app: App,
    job: i64,
    supply: String,
    at: FormAt,
    show: Show,
}

impl OnSupply {
    fn form(app: App, job: i64, supply: String, at: FormAt, show: Show) -> Self {
        Self { app, job, supply, at, show }
    }

    async fn save(
        self,
        pairs: Pairs,
        change: impl FnOnce(&mut Supply, &mut Fields, &Plan) + Send + 'static,
    ) -> Result<Response, AppError> {
        let (id, form, shown) = (self.supply.clone(), self.at.clone(), self.show);
        let read = move |known: &Assessed, f: &mut Fields| {
            let mut supply = known.job().supply(&id).ok_or(AppError::NotFound)?.clone();
            change(&mut supply, f, known.job());
            Ok((Edit::put(supply), ()))
        };
        let supply = self.supply;
        submit(&self.app, self.job, self.at, pairs, read, move |known, ()| {
            let mut out = fragments(known, &supply, shown)?;
            if shown == Show::Figures {
                form.clear(&mut out);
            }
            Ok(out.done())
        })
        .await
    }
}

async fn save_source(
    Sent { app, path: (job, supply), pairs }: Sent<(i64, String)>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let was = known.job().supply(&supply).map(|s| view::kind(&s.water));
    let was = was.ok_or(AppError::NotFound)?;
    let changes_kind = pairs.iter().any(|p| p.0 == "water" && p.1 != was);
    OnSupply::form(
        app,
        job,
        supply,
        FormAt::new("source", &read::SOURCE_FIELDS),
        if changes_kind { Show::Lists } else { Show::Figures },
    )
    .save(pairs, move |supply, f, _| read::source(supply, f, changes_kind))
    .await
}

/// Fertilizer and store.
async fn save_extras(
    Sent { app, path: (job, supply), pairs }: Sent<(i64, String)>,
) -> Result<Response, AppError> {
    let at = FormAt::new("extra", &read::EXTRA_FIELDS);
    OnSupply::form(app, job, supply, at, Show::Lists)
        .save(pairs, move |supply, f, _| read::extras(supply, f))
        .await
}

async fn add_supply(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let read = |known: &Assessed, _: &mut Fields| {
        let plan = known.job();
        let id = plan.fresh_id('s');
        let supply = Supply::new(&id, &format!("Point of connection {}", plan.supplies.len() + 1));
        Ok((Edit::put(supply), Here::picked(Screen::Water, id)))
    };
    submit(&app, job, FormAt::button(), pairs, read, render_body).await
}

async fn remove_supply(
    Sent { app, path: (job, supply), pairs }: Sent<(i64, String)>,
) -> Result<Response, AppError> {
    let read =
        move |_: &Assessed, _: &mut Fields| Ok((Edit::remove::<Supply>(supply), Here::at(Screen::Water)));
    submit(&app, job, FormAt::button(), pairs, read, render_body).await
}

/// Holds to one method of design flow, or to none.
async fn pin(Sent { app, path: (job, supply), pairs }: Sent<(i64, String)>) -> Result<Response, AppError> {
    let id = supply.clone();
    let read = move |_: &Assessed, f: &mut Fields| Ok((Edit::pin(supply, read::method(f)?), ()));
    submit(&app, job, FormAt::button(), pairs, read, move |known, ()| {
        Ok(fragments(known, &id, Show::Figures)?.done())
    })
    .await
}

async fn read_after(
    Sent { app, path: (job, supply), pairs }: Sent<(i64, String)>,
) -> Result<Response, AppError> {
    OnSupply::form(app, job, supply, FormAt::new("gauge", &["read_after"]), Show::Lists)
        .save(pairs, |supply, f, _| read::gauge(supply, f))
        .await
}

async fn add_reading(
    Sent { app, path: (job, supply), pairs }: Sent<(i64, String)>,
) -> Result<Response, AppError> {
    let kind = pairs.iter().find(|p| p.0 == "kind").map(|p| p.1.as_str());
    let form = match kind {
        Some("dynamic") => "new-dynamic",
        Some("bucket") => "new-bucket",
        _ => "new-static",
    };
    OnSupply::form(app, job, supply, FormAt::new(form, &read::READING_FIELDS), Show::Lists)
        .save(pairs, |supply, f, _| supply.readings.push(read::reading(f)))
        .await
}

async fn save_reading(
    Sent { app, path: (job, supply, index), pairs }: Sent<(i64, String, usize)>,
) -> Result<Response, AppError> {
    OnSupply::form(
        app,
        job,
        supply,
        FormAt::new(format!("reading-{index}"), &read::READING_FIELDS),
        Show::Figures,
    )
    .save(pairs, move |supply, f, _| read::save_reading(supply, f, index))
    .await
}

async fn remove_reading(
    Sent { app, path: (job, supply, index), pairs }: Sent<(i64, String, usize)>,
) -> Result<Response, AppError> {
    OnSupply::form(
        app,
        job,
        supply,
        FormAt::new(format!("reading-{index}"), &read::READING_FIELDS),
        Show::Lists,
    )
    .save(pairs, move |supply, f, _| read::remove_reading(supply, f, index))
    .await
}

async fn add_part(
    Sent { app, path: (job, supply), pairs }: Sent<(i64, String)>,
) -> Result<Response, AppError> {
    OnSupply::form(app, job, supply, FormAt::new("gauge", &["read_after"]), Show::Lists)
        .save(pairs, |supply, f, plan| read::new_part(supply, f, plan))
        .await
}

async fn save_part(
    Sent { app, path: (job, supply, part), pairs }: Sent<(i64, String, String)>,
) -> Result<Response, AppError> {
    OnSupply::form(app, job, supply, FormAt::new(format!("part-{part}"), &read::PART_FIELDS), Show::Figures)
        .save(pairs, move |supply, f, _| read::part(supply, f, &part))
        .await
}

async fn move_part(
    Sent { app, path: (job, supply, part, way), pairs }: Sent<(i64, String, String, String)>,
) -> Result<Response, AppError> {
    OnSupply::form(app, job, supply, FormAt::new(format!("part-{part}"), &read::PART_FIELDS), Show::Lists)
        .save(pairs, move |supply, f, _| read::move_part(supply, f, &part, &way))
        .await
}
