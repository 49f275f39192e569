//! Files that ship with the application.

use crate::error::AppError;
use axum::extract::Path;
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{IntoResponse, Response};
use rust_embed::RustEmbed;
use sha2::{Digest, Sha256};
use std::borrow::Cow;
use std::fmt::Write;
use std::sync::LazyLock;

#[derive(RustEmbed)]
#[folder = "assets/"]
struct Assets;

/// The components of the one style sheet, in the order in which they may override one another:
/// what holds everywhere, what pages share, pages.
const STYLES: [&str; 24] = [
    "base",
    "frame",
    "controls",
    "forms",
    "words",
    "figures",
    "findings",
    "dialog",
    "jobs",
    "quick",
    "water",
    "heads",
    "valves",
    "assembly",
    "pressure",
    "board",
    "sheet",
    "import",
    "layout",
    "catalogue",
    "times",
    "parts",
    "help",
    "print",
];

static APP_CSS: LazyLock<Vec<u8>> = LazyLock::new(|| {
    let mut css = fenlo_drawing::colour::root_css().into_bytes();
    for name in STYLES {
        let file = Assets::get(&format!("css/{name}.css")).expect("every style in the list is a file");
        css.extend_from_slice(&file.data);
    }
    css
});

/// A file that ships with the application; browsers ask again and mostly hear ‘not changed’.
pub async fn asset(Path(path): Path<String>, headers: HeaderMap) -> Result<Response, AppError> {
    let data: Cow<'static, [u8]> = match path.as_str() {
        "app.css" => Cow::Borrowed(&APP_CSS),
        "board.css" => Cow::Borrowed(fenlo_drawing::board::BOARD_CSS.as_bytes()),
        _ => Assets::get(&path).ok_or(AppError::NotFound)?.data,
    };
    let tag = tag(&data);
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
    let head = [
        (header::CONTENT_TYPE, kind.to_owned()),
        (header::ETAG, tag),
        (header::CACHE_CONTROL, "no-cache".to_owned()),
    ];
    Ok((head, data).into_response())
}

/// The first bytes of the content's hash.
fn tag(data: &[u8]) -> String {
    let mut tag = String::from("\"");
    for byte in &Sha256::digest(data)[..8] {
        let _ = write!(tag, "{byte:02x}");
    }
    tag + "\""
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_style_file_is_in_the_list_once() {
        let mut listed: Vec<String> = STYLES.iter().map(|s| format!("css/{s}.css")).collect();
        let mut there: Vec<String> =
            Assets::iter().map(|f| f.to_string()).filter(|f| f.starts_with("css/")).collect();
        listed.sort();
        there.sort();
        assert_eq!(listed, there);
    }

    #[test]
    fn pages_name_no_colour_that_the_house_does_not_have() {
        let css = String::from_utf8(APP_CSS.clone()).unwrap() + fenlo_drawing::board::BOARD_CSS;
        for part in css.split("var(--").skip(1) {
            let name = part.split([')', ',']).next().unwrap();
            let known = fenlo_drawing::colour::ALL.iter().any(|t| t.0 == name);
            assert!(known || name == "mpp" || name.starts_with("bs-"), "--{name} is not declared");
        }
    }
}
