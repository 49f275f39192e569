//! Files that somebody sends: how large they may be, how they are read, how they are given back.

use crate::error::AppError;
use axum::extract::Multipart;
use axum::http::header;
use axum::response::{IntoResponse, Response};

/// A form of the largest page is a tenth of this.
pub const MOST_FORM: usize = 256 * 1024;
/// A job file or a chart with its multipart wrapping.
pub const MOST_FILE: usize = 5_100_000;
/// A drawing of 25 MB with its multipart wrapping.
pub const MOST_DRAWING: usize = 25_100_000;
/// A scan of 12 MB with its multipart wrapping.
pub const MOST_PICTURE: usize = 12_100_000;

/// The file of a form, with the fields beside it.
#[derive(Default)]
pub struct SentFile {
    /// As the browser names it, without control characters.
    pub name: String,
    pub bytes: Vec<u8>,
    /// The other fields.
    pub fields: Vec<(String, String)>,
}

/// Reads the field `file` of a form; an empty or missing one is refused with `missing`.
pub async fn file_of(mut form: Multipart, missing: &str) -> Result<SentFile, AppError> {
    let bad = |e: axum::extract::multipart::MultipartError| {
        AppError::Bad(format!("The file could not be read: {}", e.body_text()))
    };
    let mut sent = SentFile::default();
    while let Some(field) = form.next_field().await.map_err(bad)? {
        let key = field.name().unwrap_or_default().to_owned();
        if key == "file" {
            let name = field.file_name().unwrap_or("file").chars();
            sent.name = name.filter(|c| !c.is_control()).take(100).collect();
            sent.bytes = field.bytes().await.map_err(bad)?.to_vec();
        } else if sent.fields.len() < 20 {
            sent.fields.push((key, field.text().await.map_err(bad)?));
        }
    }
    if sent.bytes.is_empty() {
        return Err(AppError::Bad(missing.to_owned()));
    }
    Ok(sent)
}

/// A file to keep, named after the job.
pub fn give(job: &str, ending: &str, kind: &'static str, bytes: impl IntoResponse) -> Response {
    let plain = |c: char| match c.to_ascii_lowercase() {
        c if c.is_ascii_alphanumeric() => c,
        _ => '-',
    };
    let name: String = job.chars().map(plain).take(60).collect();
    let disposition = format!("attachment; filename=\"{name}.{ending}\"");
    let headers = [
        (header::CONTENT_TYPE, kind.to_owned()),
        (header::CONTENT_DISPOSITION, disposition),
    ];
    (headers, bytes).into_response()
}
