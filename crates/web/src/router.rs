//! Every address of the application.

use crate::app::App;
use crate::error::{AppError, render_errors};
use crate::screens::{catalogue, details, ground, heads, jobs, layout, pressure, quick, valves, water};
use crate::{assets, security};
use axum::extract::DefaultBodyLimit;
use axum::http::StatusCode;
use axum::middleware;
use axum::routing::{get, post};
use axum::{Extension, Router};
use std::time::Duration;
use tokio::sync::watch;
use tower::ServiceBuilder;
use tower_http::catch_panic::CatchPanicLayer;
use tower_http::compression::CompressionLayer;
use tower_http::csrf::CsrfLayer;
use tower_http::timeout::TimeoutLayer;
use tower_http::trace::TraceLayer;

/// A form of the largest page is a tenth of this.
const MOST_FORM: usize = 256 * 1024;
/// A job file with its multipart wrapping.
const MOST_FILE: usize = 5_100_000;
/// A drawing of 25 MB with its multipart wrapping.
const MOST_DRAWING: usize = 25_100_000;
/// A scan of 12 MB with its multipart wrapping.
const MOST_PICTURE: usize = 12_100_000;
/// Longer than any page takes.
const TIMEOUT: Duration = Duration::from_secs(20);

pub fn router(app: App, stopping: watch::Receiver<bool>) -> Router {
    let job = Router::new()
        .route("/details", get(details::page).post(details::save))
        .route("/rules", post(details::save_rules))
        .route("/job.json", get(details::download))
        .route("/delete", post(details::delete))
        .route("/undo", post(jobs::undo))
        .route("/redo", post(jobs::redo))
        .route("/apply", post(jobs::apply))
        .route("/water", get(water::page))
        .route("/water/add", post(water::add_supply))
        .route("/water/{supply}/source", post(water::save_source))
        .route("/water/{supply}/remove", post(water::remove_supply))
        .route("/water/{supply}/pin", post(water::pin))
        .route("/water/{supply}/read-after", post(water::read_after))
        .route("/water/{supply}/readings/new", post(water::add_reading))
        .route("/water/{supply}/readings/{index}", post(water::save_reading))
        .route(
            "/water/{supply}/readings/{index}/remove",
            post(water::remove_reading),
        )
        .route("/water/{supply}/chain/new", post(water::add_part))
        .route("/water/{supply}/chain/{part}", post(water::save_part))
        .route("/water/{supply}/chain/{part}/{what}", post(water::move_part))
        .route("/events", get(ground::events::stream).layer(Extension(stopping)))
        .route("/ground", get(ground::page))
        .route("/ground/gesture", post(ground::gestures::gesture))
        .route("/ground/changes", get(ground::gestures::changes))
        .route("/ground/op", post(ground::ops::op))
        .route("/ground/tapes", get(ground::ops::tapes))
        .route(
            "/ground/coverage",
            get(ground::water::show).post(ground::water::try_it),
        )
        .route("/ground/coverage/findings", get(ground::water::findings))
        .route("/ground/layout", post(layout::lay))
        .route("/catalogue", get(catalogue::page))
        .route("/catalogue.csv", get(catalogue::download))
        .route("/catalogue/nozzle", get(catalogue::nozzle))
        .route("/catalogue/add", post(catalogue::add))
        .route("/catalogue/remove", post(catalogue::remove))
        .route("/catalogue/truck", post(catalogue::truck))
        .route(
            "/catalogue/preview",
            post(catalogue::preview).layer(DefaultBodyLimit::max(MOST_FILE)),
        )
        .route(
            "/catalogue/save",
            post(catalogue::save).layer(DefaultBodyLimit::max(MOST_FILE)),
        )
        .route("/layout", get(layout::page))
        .route("/layout/run", post(layout::run))
        .route("/layout/progress", get(layout::progress))
        .route("/layout/stop", post(layout::stop))
        .route("/layout/use", post(layout::take))
        .route("/ground/sheet", get(ground::sheet::page))
        .route("/ground/thing/{id}", post(ground::sheet::save))
        .route("/ground/list", get(ground::list::page))
        .route(
            "/ground/import",
            post(ground::import::upload).layer(DefaultBodyLimit::max(MOST_DRAWING)),
        )
        .route(
            "/ground/import/{upload}",
            get(ground::import::page).post(ground::import::take),
        )
        .route(
            "/ground/picture",
            post(ground::picture::upload).layer(DefaultBodyLimit::max(MOST_PICTURE)),
        )
        .route("/ground/picture/set", post(ground::picture::set))
        .route("/ground/picture/{name}", get(ground::picture::show))
        .route("/ground/plan.svg", get(ground::export::svg))
        .route("/ground/plan.dxf", get(ground::export::dxf))
        .route("/ground/plan.geojson", get(ground::export::geojson))
        .route("/heads", get(heads::page))
        .route("/heads/new", post(heads::add))
        .route("/heads/{group}", post(heads::save))
        .route("/heads/{group}/remove", post(heads::remove))
        .route("/valves", get(valves::page))
        .route("/valves/split", post(valves::split))
        .route("/valves/new", post(valves::add))
        .route("/valves/{valve}", post(valves::save))
        .route("/valves/{valve}/move", post(valves::move_heads))
        .route("/valves/{valve}/head/{head}", get(valves::head_how))
        .route("/valves/{valve}/remove", post(valves::remove))
        .route("/pressure", get(pressure::page));
    Router::new()
        .route("/", get(jobs::list))
        .route("/jobs", post(jobs::create))
        .route(
            "/jobs/import",
            post(jobs::import).layer(DefaultBodyLimit::max(MOST_FILE)),
        )
        .nest("/jobs/{job}", job)
        .route("/quick", get(quick::page))
        .route("/quick/job", post(quick::make_job))
        .route("/assets/{*path}", get(assets::asset))
        .route("/health", get(jobs::health))
        .fallback(|| async { AppError::NotFound })
        .layer(DefaultBodyLimit::max(MOST_FORM))
        .layer(
            ServiceBuilder::new()
                .layer(TraceLayer::new_for_http())
                .layer(middleware::from_fn(security::headers))
                .layer(CompressionLayer::new())
                .layer(CatchPanicLayer::new())
                .layer(TimeoutLayer::with_status_code(
                    StatusCode::SERVICE_UNAVAILABLE,
                    TIMEOUT,
                ))
                .layer(CsrfLayer::new())
                .layer(middleware::from_fn(render_errors)),
        )
        .with_state(app)
}
