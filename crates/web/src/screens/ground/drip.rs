//! Drip laid on an area, changed, taken up.

use super::saved;
use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::error::AppError;
use crate::fields::Fields;
use crate::submit::{FormAt, Sent, submit};
use axum::Json;
use axum::extract::rejection::JsonRejection;
use axum::extract::{Path, State};
use axum::response::{IntoResponse, Response};
use fenlo_core::board::Gesture;
use fenlo_core::catalogue::Kind;
use fenlo_core::drip::{DripFault, DripWish, design};
use fenlo_core::plan::{Edit, EmitterJoin, HeadGroup, RowEnds};
use serde::{Deserialize, Serialize};

pub const FIELDS: [&str; 11] = [
    "nozzle",
    "emitter_spacing",
    "spacing",
    "edge",
    "ends",
    "heading",
    "longest",
    "depth",
    "joined",
    "each",
    "basin",
];

/// One change of an area's drip from the sheet; `op` says which.
pub async fn change(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let at = FormAt::new("drip", &FIELDS).sent(&pairs);
    let form = at.clone();
    let read = |known: &Assessed, f: &mut Fields| Ok((typed(known, f)?, ()));
    submit(&app, job, at, pairs, read, move |known, ()| saved(known, &form)).await
}

/// A gesture that is not done yet.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Tried {
    gesture: Gesture,
}

/// Drip of one group, drawn.
#[derive(Serialize)]
struct Drawn {
    id: String,
    svg: String,
}

/// Rows as they would lie after a gesture, where they would lie otherwise than now. What can't be done lays
/// nothing.
pub async fn try_it(
    State(app): State<App>,
    Path(job): Path<i64>,
    sent: Result<Json<Tried>, JsonRejection>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let Ok(Json(sent)) = sent else {
        return Err(AppError::Bad("the drawing action could not be read".into()));
    };
    compute(move || {
        let now = known.job();
        let tried = sent.gesture.edit(now).ok().and_then(|edit| now.apply(&edit).ok());
        let drip = |g: &&HeadGroup| g.drip.is_some();
        let parts: Vec<Drawn> = tried.map_or_else(Vec::new, |(next, _)| {
            let laid = next.groups.iter().filter(drip).map(|group| Drawn {
                id: format!("d-{}", group.id),
                svg: fenlo_drawing::board::drip(&next, group),
            });
            let was = |id: &str| now.group(id).map(|g| fenlo_drawing::board::drip(now, g));
            laid.filter(|d| was(&d.id[2..]).as_ref() != Some(&d.svg)).collect()
        });
        Json(parts).into_response()
    })
    .await
}

fn typed(known: &Assessed, f: &mut Fields) -> Result<Edit, AppError> {
    let job = known.job();
    let area = f.text("area");
    let kind = match f.get("op") {
        "rows" => Some(Kind::Dripline),
        "tape" => Some(Kind::Tape),
        "plants" => Some(Kind::Emitter),
        "again" => None,
        "up" => {
            let here = |g: &&HeadGroup| g.area.as_deref() == Some(&area) && g.drip.is_some();
            let gone = job.groups.iter().filter(here).map(|g| Edit::remove::<HeadGroup>(g.id.clone()));
            return Ok(Edit::batch(gone.collect()));
        }
        _ => return f.stop("unknown action"),
    };
    let product = f.text_if_any("nozzle");
    let of_kind = |id: &String| {
        let made = job.catalogue().nozzle(id).map(|n| n.kind);
        kind.is_none_or(|k| made == Some(k))
    };
    let each = f.count("each");
    let wish = DripWish {
        kind,
        nozzle: product.filter(of_kind),
        emitter_spacing: f.length_if_any("emitter_spacing"),
        row_spacing: f.length_if_any("spacing"),
        edge: f.length_if_any("edge"),
        depth: f.length_if_any("depth"),
        ends: if f.get("ends").is_empty() { None } else { Some(f.choice::<RowEnds>("ends")) },
        longest: f.length_if_any("longest"),
        heading: f.degrees_if_any("heading").map(|d| d.rem_euclid(180.0)),
        joined: if f.get("joined").is_empty() { None } else { Some(f.choice::<EmitterJoin>("joined")) },
        each: Some(each).filter(|n| *n > 0),
        basin: f.volume_if_any("basin"),
    };
    let least = fenlo_core::units::Length::from_in(2.0);
    for (field, length) in
        [("emitter_spacing", wish.emitter_spacing), ("spacing", wish.row_spacing), ("longest", wish.longest)]
    {
        if length.is_some_and(|l| l < least) {
            f.fault(field, "at least 2 in (5 cm)");
        }
    }
    if !f.errors.is_empty() {
        return Err(AppError::Faults(Vec::new()));
    }
    let limit = known.assessment.flow_for_drip(job);
    match design(job, &area, &wish, limit) {
        Ok(made) => Ok(made.edit),
        Err(fault) => {
            let field = match fault {
                DripFault::TooNarrow { .. } => "edge",
                DripFault::EmittersApart { .. } => "emitter_spacing",
                DripFault::NoSnake => "ends",
                DripFault::RingTooTight(_) => "each",
                _ => "form",
            };
            // A form that was sent without the field says it as a whole.
            let field = if f.has(field) { field } else { "form" };
            f.fault(field, fenlo_words::drip_fault(&fault, job.units));
            Err(AppError::Faults(Vec::new()))
        }
    }
}
