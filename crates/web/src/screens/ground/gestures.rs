//! Gestures in, changed parts of the drawing out.

use super::view::picture_href;
use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::error::{AppError, escape, sentence};
use crate::keys::MOST_OWN;
use crate::place::{Here, Screen};
use crate::shell::Shell;
use axum::Json;
use axum::extract::rejection::JsonRejection;
use axum::extract::{Path, Query, State};
use axum::http::StatusCode;
use axum::response::{IntoResponse, Response};
use fenlo_core::board::Gesture;
use fenlo_core::plan::{Edit, Subject};
use fenlo_core::site::{ObjectKind, Point};
use fenlo_drawing::board::{self, layer_of};
use fenlo_store::Change;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use std::sync::Arc;

/// A gesture as the board sends it.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Sent {
    /// The number of the newest edit that the board shows.
    base: i64,
    /// What it showed when the gesture was made, where that is longer ago.
    #[serde(default)]
    made: Option<i64>,
    /// Keys of its own gestures that were stored since.
    #[serde(default)]
    own: Vec<String>,
    /// Sent again with the same key it is done once.
    key: String,
    gesture: Gesture,
}

/// A part of the drawing that is new or changed.
#[derive(Serialize)]
struct Part {
    id: String,
    layer: &'static str,
    /// The part before it in its layer.
    after: Option<String>,
    svg: String,
}

/// What changed since a number.
#[derive(Serialize, Default)]
struct Changes {
    seq: i64,
    /// So much that the whole board is to be fetched anew.
    reload: bool,
    /// Saved state, undo and rail.
    head: String,
    changed: Vec<Part>,
    gone: Vec<String>,
    /// Every head that is on the board, where whole groups were touched: others are gone.
    heads: Option<Vec<String>>,
    underlay: Option<String>,
    north: Option<f64>,
    things: usize,
}

/// Why a gesture was not done.
#[derive(Serialize)]
struct Refused {
    message: String,
    about: Option<String>,
    /// Where on the ground it is to be seen.
    place: Option<Point>,
}

/// Edits that a board may be behind before it is fetched anew.
const MOST_BEHIND: i64 = 200;

pub async fn gesture(
    State(app): State<App>,
    Path(job): Path<i64>,
    sent: Result<Json<Sent>, JsonRejection>,
) -> Result<Response, AppError> {
    let Json(sent) = match sent {
        Ok(sent) => sent,
        Err(e) => {
            return Ok(refused(
                e.status(),
                format!("The drawing action could not be read: {}", e.body_text()),
            ));
        }
    };
    if sent.key.len() > 64 || sent.own.len() > MOST_OWN {
        return Ok(refused(StatusCode::UNPROCESSABLE_ENTITY, "the key is too long".into()));
    }
    let known = app.job(job).await?;
    let (gesture, before) = (sent.gesture, Arc::clone(&known));
    let edit = compute(move || gesture.edit(before.job())).await?;
    let edit = match edit {
        Ok(edit) => edit,
        // Done before, and the answer was lost on the way.
        Err(_) if app.store.was_done(job, &sent.key).await? => return answer(&app, known, sent.base).await,
        Err(fault) => {
            return Ok((
                StatusCode::UNPROCESSABLE_ENTITY,
                Json(Refused { message: sentence(&fault.message), about: fault.about, place: fault.place }),
            )
                .into_response());
        }
    };
    match app
        .change(
            job,
            Change::Do {
                base: sent.made.unwrap_or(sent.base).min(sent.base),
                edit: Box::new(edit),
                key: Some(sent.key),
                own: sent.own,
            },
        )
        .await
    {
        Ok(known) => answer(&app, known, sent.base).await,
        Err(AppError::Faults(faults)) => {
            let fault = faults.first();
            let message = fault.map_or_else(String::new, |f| sentence(&f.message));
            Ok(refused(StatusCode::UNPROCESSABLE_ENTITY, message))
        }
        Err(AppError::Conflict(what)) => {
            let message = format!(
                "Someone else changed this ({what}). Your change was not saved. Check the plan and try again."
            );
            Ok(refused(StatusCode::CONFLICT, message))
        }
        Err(error) => Err(error),
    }
}

fn refused(status: StatusCode, message: String) -> Response {
    (status, Json(Refused { message, about: None, place: None })).into_response()
}

#[derive(Deserialize)]
pub struct Since {
    since: i64,
}

pub async fn changes(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(query): Query<Since>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    answer(&app, known, query.since).await
}

async fn answer(app: &App, known: Arc<Assessed>, since: i64) -> Result<Response, AppError> {
    let edits = app.store.edits_since(known.open.id, since, MOST_BEHIND + 1).await?;
    compute(move || Ok(Json(changed(&known, &edits)?).into_response())).await?
}

/// The parts of the drawing that some edits touched, as they are now.
fn changed(known: &Assessed, edits: &[Edit]) -> Result<Changes, AppError> {
    let plan = known.job();
    let here = Here::at(Screen::Ground);
    let shell = Shell::new(known, &here);
    let put = |id: &str, html: String| format!(r#"<div id="{id}">{html}</div>"#);
    let mut out = Changes {
        seq: known.open.seq,
        head: put("status", shell.status_html()?)
            + &put("undo", shell.undo_html()?)
            + &put("rail", shell.rail_soon_html()?),
        things: plan.site.objects.len() + plan.groups.iter().map(|g| g.drawn.len()).sum::<usize>(),
        ..Changes::default()
    };
    if edits.len() as i64 > MOST_BEHIND {
        out.reload = true;
        return Ok(out);
    }
    let (mut mains, has_main) = (false, plan.piping.legs.iter().any(|l| l.is_main()));
    let (mut things, mut heads, mut valves, mut all_heads) =
        (BTreeSet::new(), BTreeSet::new(), BTreeSet::new(), false);
    for subject in edits.iter().flat_map(Edit::subjects) {
        match subject {
            // The lists of nozzles change too.
            Subject::Job | Subject::Nozzle(_) | Subject::Favourites => out.reload = true,
            Subject::North => out.north = Some(plan.site.north),
            Subject::Underlay => out.underlay = Some(board::underlay(plan, &picture_href(known))),
            Subject::Object(id) => {
                // Water flows otherwise where heights or places change; what is gone may have been one.
                all_heads |= plan
                    .site
                    .object(&id)
                    .is_none_or(|t| matches!(t.what, ObjectKind::Height(_) | ObjectKind::Place(_)));
                // Stubs of mains are capped where ground that comes later begins.
                let object = plan.site.object(&id);
                mains |= has_main && object.is_none_or(|t| matches!(t.what, ObjectKind::Area(_)));
                // Drip follows the ground that it is laid on, and what stands on that.
                all_heads |= plan.groups.iter().any(|g| g.drip.is_some());
                things.insert(id);
            }
            Subject::Head(group, id) => {
                let group = plan.group(&group);
                valves.extend(group.into_iter().flat_map(|g| &g.drawn).filter_map(|h| h.valve.clone()));
                heads.insert(id);
            }
            // Pipe of one zone changes the main's figures, and a main those of all zones.
            Subject::Joint(_) | Subject::Leg(_) => all_heads = true,
            Subject::Group(_) | Subject::Valve(_) | Subject::Supply(_) | Subject::Rules => all_heads = true,
            // Run times and parts are not on the board.
            Subject::Climate
            | Subject::Watering
            | Subject::Usage
            | Subject::Station(_)
            | Subject::PartLine(_) => {}
        }
    }
    if out.reload {
        return Ok(out);
    }
    let mut before: std::collections::HashMap<&str, String> = Default::default();
    for thing in &plan.site.objects {
        let layer = layer_of(thing);
        let id = format!("t-{}", thing.id);
        let after = before.insert(layer, id.clone());
        if things.remove(&thing.id) {
            out.changed.push(Part { id, layer, after, svg: board::thing(thing, plan.units) });
        }
    }
    for (group, head) in plan.groups.iter().flat_map(|g| g.drawn.iter().map(move |h| (g, h))) {
        let touched =
            heads.remove(&head.id) || all_heads || head.valve.as_ref().is_some_and(|v| valves.contains(v));
        if touched {
            out.changed.push(Part {
                id: format!("t-{}", head.id),
                layer: "heads",
                after: None,
                svg: board::head(plan, &known.assessment, group, head),
            });
        }
    }
    for group in plan.groups.iter().filter(|g| g.drip.is_some()) {
        let on = |h: &fenlo_core::plan::DrawnHead| h.valve.as_ref().is_some_and(|v| valves.contains(v));
        if all_heads || group.drawn.iter().any(on) {
            out.changed.push(Part {
                id: format!("d-{}", group.id),
                layer: "pipes",
                after: None,
                svg: board::drip(plan, group),
            });
        }
    }
    let beside = board::Beside::of(plan);
    for valve in plan.valves.iter().filter(|v| all_heads || valves.contains(&v.id)) {
        out.changed.push(Part {
            id: format!("l-{}", valve.id),
            layer: "pipes",
            after: None,
            svg: board::lateral(plan, &known.assessment, &beside, &valve.id),
        });
    }
    for supply in plan.supplies.iter().filter(|_| all_heads || mains) {
        out.changed.push(Part {
            id: format!("m-{}", supply.id),
            layer: "pipes",
            after: None,
            svg: board::main(plan, &known.assessment, &beside, &supply.id),
        });
    }
    if all_heads {
        let ids = plan
            .groups
            .iter()
            .flat_map(|g| &g.drawn)
            .map(|h| format!("t-{}", h.id))
            .chain(plan.groups.iter().map(|g| format!("d-{}", g.id)))
            .chain(plan.valves.iter().map(|v| format!("l-{}", v.id)))
            .chain(plan.supplies.iter().map(|s| format!("m-{}", s.id)));
        out.heads = Some(ids.collect());
    }
    out.gone = things.into_iter().chain(heads).map(|id| format!("t-{}", escape(&id))).collect();
    Ok(out)
}
