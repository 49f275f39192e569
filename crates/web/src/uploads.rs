//! Files that somebody sends: how large they may be, how they are read, how they are given back.

use crate::error::{AppError, sentence};
use axum::extract::Multipart;
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use fenlo_formats::foreign::Told;
use std::fs::File;
use std::time::{Duration, Instant};
use tokio::io::{AsyncSeekExt, AsyncWriteExt};
use tokio::sync::Semaphore;

/// A form of the largest page is a tenth of this.
pub const MOST_FORM: usize = 256 * 1024;
/// A job file or a chart with its multipart wrapping.
pub const MOST_FILE: usize = 17_100_000;
/// A drawing of 25 MB with its multipart wrapping.
pub const MOST_DRAWING: usize = 25_100_000;
/// A scan of 12 MB with its multipart wrapping.
pub const MOST_PICTURE: usize = 12_100_000;

/// Uploads whose bodies are taken in at once; others wait before the first byte of theirs is.
static TAKING_IN: Semaphore = Semaphore::const_new(32);
/// A body may come slowly, but not for ever: so many seconds, and one more for so many bytes.
const GRACE: Duration = Duration::from_secs(20);
const SLOWEST: u64 = 20_000;
/// Fields beside a file, and bytes of each.
const MOST_FIELDS: usize = 20;
const MOST_FIELD: usize = 10_000;

/// The file of a form, with the fields beside it. The file lies on the disk without a name: it never fills
/// the memory, and goes when it was read.
pub struct SentFile {
    /// As the browser names it, without control characters.
    pub name: String,
    pub file: File,
    /// The other fields.
    pub fields: Vec<(String, String)>,
}

/// Takes in the field `file` of a form; an empty or missing one is refused with `missing`.
pub async fn file_of(mut form: Multipart, missing: &str) -> Result<SentFile, AppError> {
    let bad = |e: axum::extract::multipart::MultipartError| {
        AppError::Bad(format!("The file could not be read: {}", e.body_text()))
    };
    let _room = TAKING_IN.acquire().await.map_err(AppError::broken)?;
    let began = Instant::now();
    let mut sent: Option<(String, File)> = None;
    let mut fields = Vec::new();
    while let Some(mut field) = form.next_field().await.map_err(bad)? {
        let key: String = field.name().unwrap_or_default().chars().take(100).collect();
        if key == "file" {
            let name = field.file_name().unwrap_or("file").chars();
            let name = name.filter(|c| !c.is_control()).take(100).collect();
            let mut to = tokio::fs::File::from_std(tempfile::tempfile().map_err(AppError::broken)?);
            let mut size = 0;
            while let Some(chunk) = field.chunk().await.map_err(bad)? {
                size += chunk.len();
                in_time(began, size)?;
                to.write_all(&chunk).await.map_err(AppError::broken)?;
            }
            to.rewind().await.map_err(AppError::broken)?;
            sent = (size > 0).then_some((name, to.into_std().await));
        } else {
            let mut text = Vec::new();
            while let Some(chunk) = field.chunk().await.map_err(bad)? {
                text.extend_from_slice(&chunk);
                if text.len() > MOST_FIELD || fields.len() >= MOST_FIELDS {
                    return Err(AppError::Bad("the form contains too much besides the file".into()));
                }
            }
            fields.push((key, String::from_utf8_lossy(&text).into_owned()));
        }
    }
    let (name, file) = sent.ok_or_else(|| AppError::Bad(missing.to_owned()))?;
    Ok(SentFile { name, file, fields })
}

/// Refuses a body that comes too slowly: it would keep a place from others.
fn in_time(began: Instant, size: usize) -> Result<(), AppError> {
    if began.elapsed() <= GRACE + Duration::from_secs(size as u64 / SLOWEST) {
        return Ok(());
    }
    Err(AppError::Said(
        StatusCode::REQUEST_TIMEOUT,
        "Upload too slow",
        vec!["Uploads must run at 20 kB/s or faster. Nothing was saved. Try a better connection.".into()],
    ))
}

/// What is wrong with a file, at its places.
pub fn told(all: Vec<Told>) -> AppError {
    let line = |t: Told| match t.at.as_str() {
        "file" => sentence(&t.message),
        at => format!("{at}: {}", t.message),
    };
    AppError::Said(
        StatusCode::UNPROCESSABLE_ENTITY,
        "File cannot be used",
        all.into_iter().map(line).collect(),
    )
}

/// A file to keep, named after the job.
pub fn give(job: &str, ending: &str, kind: &'static str, bytes: impl IntoResponse) -> Response {
    let plain = |c: char| match c.to_ascii_lowercase() {
        c if c.is_ascii_alphanumeric() => c,
        _ => '-',
    };
    let name: String = job.chars().map(plain).take(60).collect();
    let disposition = format!("attachment; filename=\"{name}.{ending}\"");
    let headers = [(header::CONTENT_TYPE, kind.to_owned()), (header::CONTENT_DISPOSITION, disposition)];
    (headers, bytes).into_response()
}
