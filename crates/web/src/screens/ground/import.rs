//! Drawings in: the file is kept, its layers are shown, somebody says what each is, and all of it
//! comes onto the board as one edit or not at all.

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
use fenlo_drawing::{PreviewLayer, import_preview, preview_colour};
use fenlo_formats::drawing::{Drawing, Joined, Layer, LayerUse, guess, import, joined};
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
    /// Tolerance of joining as it is typed; none where the file itself says what closes.
    tolerance: Option<String>,
    /// What joining did.
    joined: String,
    preview: String,
    unused: Vec<String>,
    told: Vec<String>,
    error: Option<String>,
}

struct Row {
    field: String,
    colour: String,
    name: String,
    /// Why it was not shown where it was drawn.
    hidden: String,
    holds: String,
    uses: Vec<Group>,
}

const UNITS: [(&str, &str); 8] = [
    ("", "choose the unit"),
    ("1", "metres"),
    ("0.001", "millimetres"),
    ("0.01", "centimetres"),
    ("0.3048", "feet"),
    ("0.0254", "inches"),
    ("0.9144", "yards"),
    ("degrees", "longitude and latitude"),
];

fn read(upload: &Upload) -> Result<Drawing, AppError> {
    let old = |_| AppError::Bad("the upload expired. Choose the file again".into());
    take_drawing(&upload.bytes).map_err(old)
}

/// Tolerance of joining where nothing was typed, metres.
const USUAL_TOLERANCE: f64 = 0.002;

/// The tolerance that was typed, metres: 0.5 to 50 mm.
fn tolerance(text: &str, units: UnitSystem) -> Result<f64, String> {
    if text.trim().is_empty() {
        return Ok(USUAL_TOLERANCE);
    }
    let bare = text.trim().replace(',', ".").parse::<f64>();
    let typed = match bare {
        // A bare number is in millimetres, or in inches.
        Ok(n) if units.is_metric() => Ok(n / 1000.0),
        Ok(n) => Ok(n * 0.0254),
        Err(_) => Length::typed(text, units).map(Length::m).map_err(|e| e.to_string()),
    }?;
    if (0.000_49..=0.050_1).contains(&typed) {
        Ok(typed)
    } else {
        Err(format!(
            "enter 0.5 to 50 mm (0.02 to 2 in) to join line ends (got ‘{}’)",
            text.chars().take(20).collect::<String>()
        ))
    }
}

/// The drawing as it would come in: joined within the tolerance, in the unit that was picked.
fn whole(drawing: &Drawing, chosen: &Pairs, units: UnitSystem) -> Result<(Drawing, Joined), String> {
    let said = |field: &str| chosen.iter().find(|p| p.0 == field).map(|p| p.1.as_str());
    let typed = tolerance(said("tolerance").unwrap_or(""), units)?;
    let metres = said("unit").and_then(|u| u.parse::<f64>().ok()).or(drawing.metres);
    // In a unit that nobody said yet by the drawing's own size.
    let size = drawing.bounds().map_or(1.0, |(a, b)| a.distance(b));
    let near = metres.filter(|m| *m > 0.0).map_or(size * 1e-6, |m| typed / m);
    Ok(joined(drawing, near))
}

/// Keeps what the reader finds in a drawing; a file that can't be used is never kept.
pub async fn upload(
    State(app): State<App>,
    Path(job): Path<i64>,
    form: Multipart,
) -> Result<Response, AppError> {
    app.store.seq(job).await?;
    let SentFile { name, file, .. } = file_of(form, "choose a drawing first").await?;
    let ask = Ask { kind: Foreign::Drawing, name: name.clone(), page: 1 };
    let store = app.store.clone();
    let back = format!("/jobs/{job}/ground");
    let reading = app.readings.begin(app.store.company(), ask, file, &back, move |handed| async move {
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
    let unit = said("unit").map(str::to_owned).unwrap_or_else(|| match drawing.metres {
        Some(m) => format!("{m}"),
        None if drawing.maybe_degrees => "degrees".into(),
        None => String::new(),
    });
    let mut choices = choices::of(&UNITS, &unit);
    if !choices.iter().any(|c| c.chosen) {
        choices.push(Choice {
            value: unit.clone(),
            label: format!("{unit} m per unit, from the file"),
            chosen: true,
        });
    }
    let (joined_as, did, error) = match whole(drawing, chosen, units) {
        Ok((whole, did)) => (whole, did, error),
        Err(fault) => (drawing.clone(), Joined::default(), error.or(Some(fault))),
    };
    let drawing = &joined_as;
    let use_of = |i: usize, name: &str, layer: &Layer| {
        let hidden = layer.hidden.is_some();
        let said = said(&format!("layer{i}")).map(str::to_owned);
        said.unwrap_or_else(|| if hidden { "skip".into() } else { guess(name).to_owned() })
    };
    let layers: Vec<PreviewLayer<'_>> = (drawing.layers.iter().enumerate())
        .map(|(i, (name, layer))| PreviewLayer {
            name,
            rings: layer.closed.iter().map(|c| &c.0).collect(),
            lines: layer.open.iter().collect(),
            circles: layer.circles.clone(),
            points: layer.points.iter().map(|p| p.0).chain(layer.texts.iter().map(|t| t.0)).collect(),
            taken: use_of(i, name, layer) != "skip",
        })
        .collect();
    let preview = drawing.bounds().map_or_else(String::new, |(low, high)| import_preview(&layers, low, high));
    let rows = drawing
        .layers
        .iter()
        .enumerate()
        .map(|(i, (name, layer))| {
            let field = format!("layer{i}");
            let chosen = use_of(i, name, layer);
            Row {
                colour: preview_colour(i),
                hidden: layer.hidden.clone().unwrap_or_default(),
                name: name.clone(),
                holds: layer.describe(),
                uses: uses(&chosen),
                field,
            }
        })
        .collect();
    let size = drawing.bounds().map_or(String::new(), |(low, high)| match unit.parse::<f64>() {
        Ok(metres) => format!(
            "{} by {}",
            Length::from_m((high.x - low.x) * metres).show(units),
            Length::from_m((high.y - low.y) * metres).show(units)
        ),
        Err(_) => format!("{:.4} by {:.4} file units", high.x - low.x, high.y - low.y),
    });
    let unused = drawing.unused.iter().map(|(what, n)| format!("{n} {what}")).collect();
    let usual = if units.is_metric() { "2 mm" } else { "0.08 in" };
    let typed = said("tolerance").filter(|t| !t.trim().is_empty()).unwrap_or(usual);
    let counted = |n: usize, one: &str, more: &str| match n {
        0 => String::new(),
        1 => format!("1 {one}"),
        n => format!("{n} {more}"),
    };
    let parts = [
        counted(did.twice, "duplicate object imported once", "duplicate objects imported once"),
        counted(did.holes, "outline inside another becomes a hole", "outlines inside others become holes"),
    ];
    let parts: Vec<String> = parts.into_iter().filter(|p| !p.is_empty()).collect();
    Page {
        tolerance: drawing.loose.then(|| typed.to_owned()),
        joined: parts.join("; "),
        preview,
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
                Choice { chosen: value == chosen, value, label: (*l).to_owned() }
            })
            .collect(),
    };
    let things = |label: &str, of: &str, prefix: &str| Group {
        label: label.to_owned(),
        options: choices::prefixed(of, prefix, chosen),
    };
    vec![
        group("", "", &[("skip", "skip")]),
        things("Irrigated area", "area", "area:"),
        things("No-spray area", "dry", "dry:"),
        group(
            "Markers and pipe",
            "",
            &[("plants", "plants"), ("heights", "Spot elevations"), ("notes", "notes"), ("pipe", "pipe")],
        ),
        things("Markers", "marker", "place:"),
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

/// What was chosen so far, looked at again: other unit, other tolerance, other layers.
async fn look_again(app: App, job: i64, id: i64, pairs: Pairs) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let upload = app.store.upload(job, id).await?;
    compute(move || {
        let drawing = read(&upload)?;
        let page = view(job, id, &upload, &drawing, known.job().units, &pairs, None);
        Ok(Html(page.render()?).into_response())
    })
    .await?
}

/// Brings the layers in as somebody said, as one edit.
pub async fn take(Sent { app, path: (job, id), pairs }: Sent<(i64, i64)>) -> Result<Response, AppError> {
    if pairs.iter().any(|p| p.0 == "look") {
        return look_again(app, job, id, pairs).await;
    }
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
        tolerance: None,
        joined: String::new(),
        preview: String::new(),
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
    let drawing = &whole(drawing, pairs, job.units)?.0;
    let said = |field: &str| pairs.iter().find(|p| p.0 == field).map_or("", |p| p.1.as_str());
    let metres = match said("unit") {
        "degrees" => None,
        text => Some(
            text.parse::<f64>()
                .ok()
                .filter(|m| *m > 0.0 && *m < 1e5)
                .ok_or("Choose the drawing unit. The file does not state one.")?,
        ),
    };
    let mut uses = BTreeMap::new();
    for (i, name) in drawing.layers.keys().enumerate() {
        let text = said(&format!("layer{i}"));
        uses.insert(
            name.clone(),
            LayerUse::parse(text).ok_or_else(|| format!("Choose what layer ‘{name}’ is, or skip it."))?,
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
        let on = job.apply(&Edit::batch(edits.clone())).map_err(|e| e.to_string())?.0;
        let mut k = 0;
        let (laid, left_out) = lay_pipes(on.plan(), &imported.pipes, |letter| {
            k += 1;
            format!("{letter}{id}-{k}")
        });
        edits.extend(laid);
        told.extend(left_out);
    }
    if edits.is_empty() {
        let why = if told.is_empty() { String::new() } else { format!(" ({})", told.join("; ")) };
        return Err(format!("Nothing to import. Choose what at least one layer is{why}."));
    }
    Ok((edits, told))
}
