//! The scan or photo beneath the drawing.

use super::saved;
use crate::app::App;
use crate::error::{AppError, sentence};
use crate::fields::Fields;
use crate::reading::{Ask, Ended};
use crate::submit::{FormAt, Sent};
use crate::uploads::{file_of, told};
use axum::Json;
use axum::extract::{Multipart, Path, State};
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use fenlo_core::plan::Edit;
use fenlo_core::site::{Point, Underlay};
use fenlo_core::units::Length;
use fenlo_drawing::board::frame;
use fenlo_formats::foreign::{Foreign, take_scan};
use fenlo_formats::picture::Scan;
use fenlo_store::Picture;
use serde_json::json;

pub async fn upload(
    State(app): State<App>,
    Path(job): Path<i64>,
    form: Multipart,
) -> Result<Response, AppError> {
    app.store.seq(job).await?;
    let sent = file_of(form, "choose a picture first").await?;
    let field = |name: &str| sent.fields.iter().find(|f| f.0 == name).map_or("", |f| f.1.trim());
    let scale = drawing_scale(field("scale"))?;
    let ask = Ask { kind: Foreign::Picture, name: sent.name, page: field("page").parse().unwrap_or(1) };
    let keeping = app.clone();
    let back = format!("/jobs/{job}/ground");
    let reading =
        app.readings.begin(app.store.company(), ask, sent.file, &back, move |handed| async move {
            let scan = take_scan(handed.map_err(told)?).map_err(AppError::Broken)?;
            put(&keeping, job, scan, scale).await?;
            Ok(Ended::Go(format!("/jobs/{job}/ground")))
        })?;
    reading.page().await
}

/// A drawing's scale as its title block says it: `1:100`, `1/100`, `100`; none where nothing was typed.
fn drawing_scale(text: &str) -> Result<Option<f64>, AppError> {
    if text.is_empty() {
        return Ok(None);
    }
    let of = text.trim_start_matches("1:").trim_start_matches("1/").trim();
    match of.parse::<f64>() {
        Ok(scale) if (1.0..=10_000.0).contains(&scale) => Ok(Some(scale)),
        _ => Err(AppError::Bad(format!(
            "enter a scale such as 1:100, or leave it empty and scale by two points (got ‘{}’)",
            text.chars().take(20).collect::<String>()
        ))),
    }
}

/// Keeps a picture and lays it beneath the drawing: at its drawing scale where that is known of a page of
/// paper, else as wide as what is drawn until it is scaled.
async fn put(app: &App, job: i64, scan: Scan, scale: Option<f64>) -> Result<(), AppError> {
    let known = app.job(job).await?;
    let Scan { kind, bytes, name, width, height, paper } = scan;
    if scale.is_some() && paper.is_none() {
        let said = "a photo has no paper scale. Leave the scale empty and scale it by two points";
        return Err(AppError::Bad(said.into()));
    }
    let kind = kind.to_owned();
    app.store.put_picture(job, &name, &Picture { kind, bytes }).await?;
    let (l, b, r, _) = frame(known.job());
    let scaled = paper.zip(scale).map(|(metres, scale)| metres * scale);
    let pixel = scaled.unwrap_or_else(|| (r - l).max(10.0) / f64::from(width.max(1)));
    let pixel = Length::from_m(pixel);
    let underlay = Some(Underlay {
        picture: name,
        width,
        height,
        at: Point::new(l, b),
        pixel,
        degrees: 0.0,
        strength: 0.5,
    });
    let edit = Edit::SetUnderlay(fenlo_core::plan::SetUnderlay { underlay });
    app.edit(job, known.open.seq, edit).await?;
    Ok(())
}

pub async fn show(
    State(app): State<App>,
    Path((job, name)): Path<(i64, String)>,
) -> Result<Response, AppError> {
    let picture = app.store.picture(job, &name).await?;
    // Named by what it holds: it never changes.
    Ok((
        [
            (header::CONTENT_TYPE, picture.kind),
            (header::CACHE_CONTROL, "private, max-age=31536000, immutable".into()),
        ],
        picture.bytes,
    )
        .into_response())
}

/// Scales, levels, moves, fades or takes away.
pub async fn set(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let Some(was) = known.job().site.underlay.clone() else {
        return Err(AppError::Conflict("the picture was removed".into()));
    };
    let mut f = Fields::new(pairs, known.job().units);
    let (a, b) = (Point::new(f.number("ax"), f.number("ay")), Point::new(f.number("bx"), f.number("by")));
    let next = if f.ticked("remove") {
        Ok(None)
    } else if !f.get("apart").is_empty() {
        let apart = f.length("apart");
        was.scaled(a, b, apart).map(Some)
    } else if f.ticked("level") {
        was.levelled(a, b).map(Some)
    } else if !f.get("strength").is_empty() {
        Ok(Some(Underlay { strength: f.number("strength"), ..was }))
    } else {
        Ok(Some(Underlay { at: was.at + Point::new(f.number("right"), f.number("up")), ..was }))
    };
    let refused = |message: &str| {
        Ok((StatusCode::UNPROCESSABLE_ENTITY, Json(json!({ "message": sentence(message) }))).into_response())
    };
    if let Some((_, message)) = f.errors.first() {
        return refused(message);
    }
    let underlay = match next {
        Ok(underlay) => underlay,
        Err(message) => return refused(message),
    };
    match app
        .edit(
            job,
            f.base().unwrap_or(known.open.seq),
            Edit::SetUnderlay(fenlo_core::plan::SetUnderlay { underlay }),
        )
        .await
    {
        Ok(known) => saved(&known, &FormAt::button()),
        Err(AppError::Faults(faults)) => {
            refused(&faults.first().map_or_else(String::new, |x| x.message.clone()))
        }
        Err(error) => Err(error),
    }
}
