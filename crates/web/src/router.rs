//! Every address of the application, and what stands before all of them.

use crate::app::App;
use crate::beside;
use crate::config::Config;
use crate::error::{AppError, caught, render_errors};
use crate::place::SCREENS;
use crate::screens::{self, help, jobs, prices, quick, reading, shared};
use crate::security::{self, Guard};
use crate::uploads::MOST_FORM;
use crate::watch::Watch;
use crate::{assets, watch};
use axum::extract::DefaultBodyLimit;
use axum::extract::Request;
use axum::http::header;
use axum::middleware::{self, Next};
use axum::response::{IntoResponse, Response};
use axum::routing::get;
use axum::{Extension, Router};
use std::sync::Arc;
use std::time::Duration;
use tokio::sync::watch::Receiver;
use tower::ServiceBuilder;
use tower_http::CompressionLevel;
use tower_http::catch_panic::CatchPanicLayer;
use tower_http::compression::CompressionLayer;
use tower_http::csrf::CsrfLayer;
use tower_http::timeout::RequestBodyTimeoutLayer;

/// Longer than any page takes.
const TIMEOUT: Duration = Duration::from_secs(20);
/// A file of 25 MB by a poor line takes minutes; as long as bytes come it may.
const FILE_TIMEOUT: Duration = Duration::from_secs(300);

/// The application; streams of news end when `stopping` turns true.
pub fn router(app: App, config: &Config, stopping: Receiver<bool>) -> Router {
    let job = SCREENS.iter().fold(jobs::of_a_job(), |job, row| job.merge(screens::routes(row.screen)));
    let job = job.merge(beside::routes()).route("/rail", get(screens::rail));
    let all = Router::new()
        .merge(jobs::routes())
        .merge(quick::routes())
        .merge(help::routes())
        .merge(prices::routes())
        .merge(shared::routes())
        .merge(reading::routes())
        .route("/health", get(watch::health))
        .route("/ready", get(watch::ready))
        .route("/metrics", get(watch::metrics))
        .nest("/jobs/{job}", job)
        .route("/assets/{*path}", get(assets::asset))
        .fallback(|| async { AppError::NotFound })
        .layer(Extension(stopping))
        .layer(Extension(jobs::lists(app.clone())))
        .layer(DefaultBodyLimit::max(MOST_FORM));
    let watch = Arc::clone(&app.watch);
    guarded(all, config, watch, TIMEOUT).with_state(app)
}

/// What every request passes, outermost first. Whatever refuses or breaks one, the answer is a page
/// of ours: `render_errors` stands before all that may.
pub fn guarded<S: Clone + Send + Sync + 'static>(
    routes: Router<S>,
    config: &Config,
    watch: Arc<Watch>,
    timeout: Duration,
) -> Router<S> {
    let guard = Guard::of(config);
    routes.layer(
        ServiceBuilder::new()
            .layer(middleware::from_fn_with_state(Arc::clone(&watch), watch::follow))
            .layer(middleware::from_fn_with_state(guard.clone(), security::headers))
            // What is kept is compressed well, once (ready); what is made for one answer quickly.
            .layer(CompressionLayer::new().quality(CompressionLevel::Fastest))
            .layer(middleware::from_fn(render_errors))
            .layer(middleware::from_fn_with_state(guard, security::guard))
            .layer(middleware::from_fn_with_state(watch, watch::not_too_often))
            .layer(CatchPanicLayer::custom(caught))
            .layer(middleware::from_fn(move |request, next| in_time(timeout, request, next)))
            .layer(RequestBodyTimeoutLayer::new(config.body_time()))
            .layer(CsrfLayer::new()),
    )
}

/// Gives up on what takes too long.
async fn in_time(usual: Duration, request: Request, next: Next) -> Response {
    let kind = request.headers().get(header::CONTENT_TYPE);
    let file = kind.is_some_and(|k| k.as_bytes().starts_with(b"multipart/"));
    let time = if file { FILE_TIMEOUT } else { usual };
    match tokio::time::timeout(time, next.run(request)).await {
        Ok(response) => response,
        Err(_) => AppError::TimedOut.into_response(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use axum::Form;
    use axum::body::{Body, to_bytes};
    use axum::http::{Request, Response, StatusCode};
    use axum::routing::post;
    use tower::ServiceExt;

    async fn panics() -> &'static str {
        panic!("a head fell off")
    }

    /// Routes that go wrong, behind everything that stands before the real ones.
    fn broken() -> Router {
        let routes = Router::new()
            .route("/panic", get(panics))
            .route("/slow", get(std::future::pending::<()>))
            .route("/ill", get(|| async { AppError::Bad("that has no end".into()) }))
            .route("/form", post(|Form(_): Form<Vec<(String, String)>>| async {}))
            .route("/health", get(|| async { (StatusCode::SERVICE_UNAVAILABLE, "database not available") }))
            .route("/own", get(|| async { (StatusCode::NOT_FOUND, [("content-type", "image/png")], "x") }))
            .fallback(|| async { AppError::NotFound })
            .layer(DefaultBodyLimit::max(100));
        let config = Config::default();
        guarded(routes, &config, Arc::new(Watch::new(&config)), Duration::from_millis(30))
    }

    async fn ask(request: Request<Body>) -> (StatusCode, String, Response<()>) {
        let response = broken().oneshot(request).await.into_response();
        let (parts, body) = response.into_parts();
        let bytes = to_bytes(body, 100_000).await.unwrap();
        let text = String::from_utf8_lossy(&bytes).into_owned();
        (parts.status, text, Response::from_parts(parts, ()))
    }

    fn get_of(path: &str) -> axum::http::request::Builder {
        Request::get(path).header("host", "localhost")
    }

    #[tokio::test]
    async fn a_panic_a_timeout_and_a_wrong_path_end_on_a_page_of_ours() {
        for (path, status, title) in [
            ("/panic", StatusCode::INTERNAL_SERVER_ERROR, "Something went wrong"),
            ("/slow", StatusCode::SERVICE_UNAVAILABLE, "Request timed out"),
            ("/nowhere", StatusCode::NOT_FOUND, "Page not found"),
            ("/form", StatusCode::METHOD_NOT_ALLOWED, "Not a page"),
            ("/ill", StatusCode::BAD_REQUEST, "That has no end."),
        ] {
            let (got, text, response) = ask(get_of(path).body(Body::empty()).unwrap()).await;
            assert_eq!(got, status, "{path}");
            assert!(text.contains("<!doctype html>") && text.contains(title), "{path}: {text}");
            assert!(text.contains("Back to jobs"), "{path} leads on");
            assert!(response.headers().contains_key("content-security-policy"), "{path}");
            assert!(!text.contains("a head fell off"), "causes go to the log");
        }
    }

    #[tokio::test]
    async fn a_form_of_another_site_and_one_that_is_too_large_say_so() {
        let form = |site: &str, body: String| {
            Request::post("/form")
                .header("host", "localhost")
                .header("sec-fetch-site", site)
                .header("content-type", "application/x-www-form-urlencoded")
                .body(Body::from(body))
                .unwrap()
        };
        let (status, text, _) = ask(form("cross-site", "a=1".into())).await;
        assert_eq!(status, StatusCode::FORBIDDEN);
        assert!(text.contains("Blocked: request from another site") && text.contains("Nothing was changed"));
        let (status, text, _) = ask(form("same-origin", "a".repeat(300))).await;
        assert_eq!(status, StatusCode::PAYLOAD_TOO_LARGE);
        assert!(text.contains("File too large"));
        assert_eq!(ask(form("same-origin", "a=1".into())).await.0, StatusCode::OK);
    }

    #[tokio::test]
    async fn an_open_page_gets_a_fragment_and_the_board_a_message() {
        let fragment = get_of("/slow").header("hx-request", "true").body(Body::empty());
        let (_, text, _) = ask(fragment.unwrap()).await;
        assert!(text.starts_with("<p><b>Request timed out</b></p>"), "{text}");
        let board = get_of("/panic").header("content-type", "application/json").body(Body::empty());
        let (_, text, _) = ask(board.unwrap()).await;
        let read: serde_json::Value = serde_json::from_str(&text).unwrap();
        assert!(read["message"].as_str().unwrap().starts_with("Something went wrong. "));
    }

    #[tokio::test]
    async fn what_a_handler_says_itself_is_left_as_it_is() {
        for (path, said) in [("/health", "database not available"), ("/own", "x")] {
            let (_, text, _) = ask(get_of(path).body(Body::empty()).unwrap()).await;
            assert_eq!(text, said);
        }
    }
}
