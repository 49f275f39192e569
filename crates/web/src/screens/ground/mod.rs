//! Ground: the site drawn to scale.
//!
//! | file | idea |
//! |---|---|
//! | `view` | the board as it is first shown |
//! | `gestures` | what hands did, as one edit; what changed since, as the parts of the drawing |
//! | `sheet` | what is picked, beside the board: figures, properties, things to do with it |
//! | `ops` | the same gestures from typed figures, for the keyboard |
//! | `list` | everything on the board as a table |
//! | `import` | drawings in: upload, layers to kinds, one edit |
//! | `export` | drawings out |
//! | `pipes` | pipe proposed, changed, and run with several valves open |
//! | `picture` | the scan or photo beneath |
//! | `water` | the water on the ground: its map and figures, also while a head is dragged |
//! | `events` | other people's edits as they happen |

mod drip;
mod events;
mod export;
mod gestures;
mod import;
mod list;
mod ops;
mod picture;
mod pipes;
mod sheet;
mod view;
pub mod water;

pub use pipes::laid;

use super::render_page;
use crate::app::App;
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::place::{Here, Screen};
use crate::respond::Fragments;
use crate::submit::FormAt;
use crate::uploads::{MOST_DRAWING, MOST_PICTURE};
use axum::Router;
use axum::extract::{DefaultBodyLimit, Path, State};
use axum::http::{HeaderMap, HeaderValue};
use axum::response::Response;
use axum::routing::{get, post};

pub fn routes() -> Router<App> {
    let drawing = DefaultBodyLimit::max(MOST_DRAWING);
    let picture = DefaultBodyLimit::max(MOST_PICTURE);
    Router::new()
        .route("/ground", get(page))
        .route("/events", get(events::stream))
        .route("/ground/gesture", post(gestures::gesture))
        .route("/ground/changes", get(gestures::changes))
        .route("/ground/op", post(ops::op))
        .route("/ground/tapes", get(ops::tapes))
        .route("/ground/coverage", get(water::show).post(water::try_it))
        .route("/ground/coverage/findings", get(water::findings))
        .route("/ground/sheet", get(sheet::page))
        .route("/ground/thing/{id}", post(sheet::save))
        .route("/ground/pipes", post(pipes::change))
        .route("/ground/drip", post(drip::change))
        .route("/ground/drip/try", post(drip::try_it))
        .route("/ground/shapes", get(pipes::shapes))
        .route("/ground/together", get(pipes::together))
        .route("/ground/list", get(list::page))
        .route("/ground/import", post(import::upload).layer(drawing))
        .route("/ground/import/{upload}", get(import::page).post(import::take))
        .route("/ground/picture", post(picture::upload).layer(picture))
        .route("/ground/picture/set", post(picture::set))
        .route("/ground/picture/{name}", get(picture::show))
        .route("/ground/plan.svg", get(export::svg))
        .route("/ground/plan.dxf", get(export::dxf))
        .route("/ground/plan.geojson", get(export::geojson))
}

pub fn body(known: &Assessed, _pick: Option<&str>) -> Result<String, AppError> {
    view::body(known)
}

async fn page(
    State(app): State<App>,
    headers: HeaderMap,
    Path(job): Path<i64>,
) -> Result<Response, AppError> {
    render_page(&app, &headers, app.job(job).await?, Here::at(Screen::Ground)).await
}

/// The answer to a form beside the board: the board fetches what changed by itself.
pub fn saved(known: &Assessed, form: &FormAt) -> Result<Response, AppError> {
    told(known, form, "board-changed")
}

/// The same for something new: the board picks it, and its name is where the next letter goes.
pub fn added(known: &Assessed, form: &FormAt, id: &str) -> Result<Response, AppError> {
    let id: String = id.chars().filter(|c| c.is_ascii_alphanumeric() || *c == '-').collect();
    told(known, form, &format!("{{\"board-changed\": {{\"added\": \"{id}\"}}}}"))
}

fn told(known: &Assessed, form: &FormAt, event: &str) -> Result<Response, AppError> {
    let mut out = Fragments::of(known, &Here::at(Screen::Ground))?;
    form.clear(&mut out);
    let mut response = out.done();
    let event = HeaderValue::from_str(event).map_err(|_| AppError::NotFound)?;
    response.headers_mut().insert("hx-trigger", event);
    Ok(response)
}
