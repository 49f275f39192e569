use crate::error::AppError;
use axum::extract::Path;
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{IntoResponse, Response};
use rust_embed::RustEmbed;
use std::fmt::Write;

#[derive(RustEmbed)]
#[folder = "assets/"]
struct Assets;

/// A file that ships with the application; browsers ask again and mostly hear ‘not changed’.
pub async fn asset(Path(path): Path<String>, headers: HeaderMap) -> Result<Response, AppError> {
    if path == "board.css" {
        return Ok(([(header::CONTENT_TYPE, "text/css; charset=utf-8"), (header::CACHE_CONTROL, "no-cache")], fenlo_drawing::board::BOARD_CSS).into_response());
    }
    let file = Assets::get(&path).ok_or(AppError::NotFound)?;
    let tag = file.metadata.sha256_hash()[..8].iter().fold(String::from("\""), |mut tag, b| {
        let _ = write!(tag, "{b:02x}");
        tag
    }) + "\"";
    if headers.get(header::IF_NONE_MATCH).is_some_and(|t| t.as_bytes() == tag.as_bytes()) {
        return Ok(StatusCode::NOT_MODIFIED.into_response());
    }
    let kind = match path.rsplit('.').next() {
        Some("css") => "text/css; charset=utf-8",
        Some("js") => "text/javascript; charset=utf-8",
        Some("svg") => "image/svg+xml",
        Some("woff2") => "font/woff2",
        _ => "text/plain; charset=utf-8",
    };
    Ok(([(header::CONTENT_TYPE, kind.to_owned()), (header::ETAG, tag), (header::CACHE_CONTROL, "no-cache".to_owned())], file.data).into_response())
}
