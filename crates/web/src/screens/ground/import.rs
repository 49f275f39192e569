//! Drawings in: the file is kept, its layers are shown, somebody says what each is, and all of it
//! comes onto the board as one edit or not at all.

use super::view::{AREAS, DRY, PLACES};
use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::choices::{self, Choice, Group};
use crate::error::AppError;
use crate::fields::Pairs;
use crate::place::{Here, Screen};
use crate::reading::{Ask, Ended};
use crate::screens::page_around;
use crate::submit::Sent;
use crate::uploads::{SentFile, file_of, told};
use askama::Template;
use axum::extract::{Multipart, Path, State};
use axum::http::StatusCode;
use axum::response::{Html, IntoResponse, Redirect, Response};
use fenlo_core::board::lay_pipes;
use fenlo_core::job::Job;
use fenlo_core::plan::Edit;
use fenlo_core::units::{Length, UnitSystem};
use fenlo_formats::drawing::{Drawing, LayerUse, guess, import};
use fenlo_formats::foreign::{Foreign, take_drawing};
use fenlo_store::Upload;
use std::collections::BTreeMap;

#[derive(Template)]
#[template(path = "import.html")]
struct Page {
    job: i64,
    upload: i64,
    name: String,
    rows: Vec<Row>,
    units: Vec<Choice>,
    unit_known: bool,
    size: String,
    unused: Vec<String>,
    told: Vec<String>,
    error: Option<String>,
}

struct Row {
    field: String,
    name: String,
    holds: String,
    uses: Vec<Group>,
}

const UNITS: [(&str, &str); 8] = [
    ("", "pick the unit"),
    ("1", "metres"),
    ("0.001", "millimetres"),
    ("0.01", "centimetres"),
    ("0.3048", "feet"),
    ("0.0254", "inches"),
    ("0.9144", "yards"),
    ("degrees", "longitude and latitude"),
];

fn read(upload: &Upload) -> Result<Drawing, AppError> {
    let old = |_| AppError::Bad("that drawing waited too long: pick it again".into());
    take_drawing(&upload.bytes).map_err(old)
}

/// Keeps what the reader finds in a drawing; a file that can't be used is never kept.
pub async fn upload(
    State(app): State<App>,
    Path(job): Path<i64>,
    form: Multipart,
) -> Result<Response, AppError> {
    app.store.seq(job).await?;
    let SentFile { name, file, .. } = file_of(form, "pick a drawing first").await?;
    let ask = Ask {
        kind: Foreign::Drawing,
        name: name.clone(),
        page: 1,
    };
    let store = app.store.clone();
    let back = format!("/jobs/{job}/ground");
    let reading = app
        .readings
        .begin(app.store.company(), ask, file, &back, move |handed| async move {
            let bytes = handed.map_err(told)?;
            let id = store.put_upload(job, &Upload { name, bytes }).await?;
            Ok(Ended::Go(format!("/jobs/{job}/ground/import/{id}")))
        })?;
    reading.page().await
}

fn view(
    job: i64,
    id: i64,
    upload: &Upload,
    drawing: &Drawing,
    units: UnitSystem,
    chosen: &Pairs,
    error: Option<String>,
) -> Page {
    let said = |field: &str| chosen.iter().find(|p| p.0 == field).map(|p| p.1.as_str());
    let unit = said("unit")
        .map(str::to_owned)
        .unwrap_or_else(|| match drawing.metres {
            Some(m) => format!("{m}"),
            None if drawing.maybe_degrees => "degrees".into(),
            None => String::new(),
        });
    let mut choices = choices::of(&UNITS, &unit);
    if !choices.iter().any(|c| c.chosen) {
        choices.push(Choice {
            value: unit.clone(),
            label: format!("{unit} m each, as the file says"),
            chosen: true,
        });
    }
    let rows = drawing
        .layers
        .iter()
        .enumerate()
        .map(|(i, (name, layer))| {
            let field = format!("layer{i}");
            let chosen = said(&field).unwrap_or_else(|| guess(name)).to_owned();
            Row {
                name: name.clone(),
                holds: layer.describe(),
                uses: uses(&chosen),
                field,
            }
        })
        .collect();
    let size = drawing
        .bounds()
        .map_or(String::new(), |(low, high)| match unit.parse::<f64>() {
            Ok(metres) => format!(
                "{} by {}",
                Length::from_m((high.x - low.x) * metres).show(units),
                Length::from_m((high.y - low.y) * metres).show(units)
            ),
            Err(_) => format!(
                "{:.4} by {:.4} in the file's own unit",
                high.x - low.x,
                high.y - low.y
            ),
        });
    let unused = drawing
        .unused
        .iter()
        .map(|(what, n)| format!("{n} {what}"))
        .collect();
    Page {
        job,
        upload: id,
        name: upload.name.clone(),
        rows,
        units: choices,
        unit_known: drawing.metres.is_some(),
        size,
        unused,
        told: Vec::new(),
        error,
    }
}

fn uses(chosen: &str) -> Vec<Group> {
    let group = |label: &str, prefix: &str, list: &[(&str, &str)]| Group {
        label: label.to_owned(),
        options: list
            .iter()
            .map(|(v, l)| {
                let value = format!("{prefix}{v}");
                Choice {
                    chosen: value == chosen,
                    value,
                    label: (*l).to_owned(),
                }
            })
            .collect(),
    };
    vec![
        group("", "", &[("skip", "leave out")]),
        group("watered", "area:", &AREAS),
        group("kept dry", "dry:", &DRY),
        group(
            "points and pipe",
            "",
            &[
                ("plants", "plants"),
                ("heights", "spot heights"),
                ("notes", "notes"),
                ("pipe", "pipe"),
            ],
        ),
        group("places", "place:", &PLACES),
    ]
}

/// A page beside the board.
fn beside(known: &Assessed, page: &Page) -> Result<Html<String>, AppError> {
    page_around(known, &Here::at(Screen::Ground), page.render()?)
}

pub async fn page(State(app): State<App>, Path((job, id)): Path<(i64, i64)>) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let upload = app.store.upload(job, id).await?;
    compute(move || {
        let drawing = read(&upload)?;
        let page = view(job, id, &upload, &drawing, known.job().units, &Vec::new(), None);
        Ok(beside(&known, &page)?.into_response())
    })
    .await?
}

/// Brings the layers in as somebody said, as one edit.
pub async fn take(
    Sent {
        app,
        path: (job, id),
        pairs,
    }: Sent<(i64, i64)>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let upload = app.store.upload(job, id).await?;
    let before = known.clone();
    let made = compute(move || {
        let drawing = read(&upload)?;
        Ok::<_, AppError>(edits(before.job(), &drawing, &pairs, id).map_err(|message| {
            let units = before.job().units;
            view(job, id, &upload, &drawing, units, &pairs, Some(message))
        }))
    })
    .await??;
    let (edits, told) = match made {
        Ok(made) => made,
        Err(page) => {
            return Ok((StatusCode::UNPROCESSABLE_ENTITY, beside(&known, &page)?).into_response());
        }
    };
    let known = app.edit(job, known.open.seq, Edit::batch(edits)).await?;
    app.store.drop_upload(job, id).await?;
    if told.is_empty() {
        return Ok(Redirect::to(&format!("/jobs/{job}/ground")).into_response());
    }
    let page = Page {
        job,
        upload: id,
        name: String::new(),
        rows: Vec::new(),
        units: Vec::new(),
        unit_known: true,
        size: String::new(),
        unused: Vec::new(),
        told,
        error: None,
    };
    Ok(beside(&known, &page)?.into_response())
}

fn edits(job: &Job, drawing: &Drawing, pairs: &Pairs, id: i64) -> Result<(Vec<Edit>, Vec<String>), String> {
    let said = |field: &str| pairs.iter().find(|p| p.0 == field).map_or("", |p| p.1.as_str());
    let metres = match said("unit") {
        "degrees" => None,
        text => Some(
            text.parse::<f64>()
                .ok()
                .filter(|m| *m > 0.0 && *m < 1e5)
                .ok_or("Pick the unit of the drawing: the file does not say it.")?,
        ),
    };
    let mut uses = BTreeMap::new();
    for (i, name) in drawing.layers.keys().enumerate() {
        let text = said(&format!("layer{i}"));
        uses.insert(
            name.clone(),
            LayerUse::parse(text).ok_or_else(|| format!("Say what layer ‘{name}’ is, or leave it out."))?,
        );
    }
    let mut n = 0;
    let imported = import(drawing, &uses, metres, || {
        n += 1;
        format!("i{id}-{n}")
    })?;
    let mut told = imported.told;
    let mut edits: Vec<Edit> = imported.things.into_iter().map(Edit::put).collect();
    if !imported.pipes.is_empty() {
        // Pipe joins what stands on the board, also what comes in with it.
        let on = job
            .apply(&Edit::batch(edits.clone()))
            .map_err(|e| e.to_string())?
            .0;
        let mut k = 0;
        let (laid, left_out) = lay_pipes(on.plan(), &imported.pipes, |letter| {
            k += 1;
            format!("{letter}{id}-{k}")
        });
        edits.extend(laid);
        told.extend(left_out);
    }
    if edits.is_empty() {
        let why = if told.is_empty() {
            String::new()
        } else {
            format!(" ({})", told.join("; "))
        };
        return Err(format!(
            "Nothing would come in: say what at least one layer is{why}."
        ));
    }
    Ok((edits, told))
}
