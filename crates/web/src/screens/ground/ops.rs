//! Gestures from typed figures: what the hands do on the board, for the keyboard.

use super::sheet::ids;
use super::{added, saved};
use crate::app::App;
use crate::assessed::Assessed;
use crate::beside::{self, Beside, Task};
use crate::error::{AppError, sentence};
use crate::fields::Fields;
use crate::submit::{FormAt, Sent, submit};
use axum::Json;
use axum::extract::{Path, Query, State};
use axum::response::{IntoResponse, Response};
use fenlo_core::board::{Gesture, NewKind};
use fenlo_core::layout::even_out;
use fenlo_core::plan::Edit;
use fenlo_core::site::{
    Motion, Note, ObjectKind, Outline, PlaceMark, Planting, Point, Shape, SiteObject, SpotHeight, rectangle,
    triangulate,
};
use fenlo_core::units::{Length, M_PER_FT, UnitSystem};
use serde::Deserialize;
use serde_json::json;

const FIELDS: [&str; 19] = [
    "name", "index", "corner", "right", "up", "degrees", "x", "y", "length", "rise", "cut", "radius",
    "distance", "width", "along", "across", "kind", "count", "arc",
];

/// One typed operation. `form` says where faults are shown, `op` what is to be done.
pub async fn op(Sent { app, path: job, pairs }: Sent<i64>) -> Result<Response, AppError> {
    let form = pairs.iter().find(|p| p.0 == "form").map_or("", |p| p.1.as_str());
    let plain = |c: &char| c.is_ascii_alphanumeric() || *c == '-';
    let form: String = form.chars().filter(plain).take(40).collect();
    let at = FormAt::new(form, &FIELDS).sent(&pairs);
    let form = at.clone();
    let splitting = match pairs.iter().any(|p| p.0 == "op" && p.1 == "to-valves") {
        true => Some(Beside::asked(&app, job, Task::Loose, &pairs).await?),
        false => None,
    };
    if let Some(work) = &splitting {
        if !work.wait(&pairs).await {
            return beside::shown(work, "loose-run");
        }
        app.beside.invalidate(&(job, Task::Loose));
    }
    let read = move |known: &Assessed, f: &mut Fields| {
        if let Some(work) = &splitting {
            return Ok((work.outcome(known, f)?.0, None));
        }
        let (typed, new) = edits(f, known);
        if !f.errors.is_empty() {
            return Err(AppError::Faults(Vec::new()));
        }
        let edit = match typed {
            Typed::Edit(edit) => *edit,
            Typed::Gesture(gesture) => match gesture.edit(known.job()) {
                Ok(edit) => edit,
                Err(fault) => return f.stop(fault.message),
            },
        };
        Ok((edit, new))
    };
    let show = move |known: &Assessed, new: Option<String>| match new {
        Some(id) => added(known, &form, &id),
        None => saved(known, &form),
    };
    submit(&app, job, at, pairs, read, show).await
}

enum Typed {
    Gesture(Gesture),
    Edit(Box<Edit>),
}

/// What is to be done, and the name of what is new by it.
fn edits(f: &mut Fields, known: &Assessed) -> (Typed, Option<String>) {
    let new = fresh(known.job());
    let adds = ["rectangle", "point"].contains(&f.get("op"));
    (typed(f, known, &new), adds.then_some(new))
}

fn typed(f: &mut Fields, known: &Assessed, new: &str) -> Typed {
    let plan = known.job();
    let new = new.to_owned();
    let ids = ids(f.get("ids"));
    let id = ids.first().cloned().unwrap_or_default();
    let (ring, index) = (f.count("ring") as usize, f.count("index") as usize);
    let centre = || {
        let boxes = ids
            .iter()
            .filter_map(|id| plan.site.object(id))
            .filter_map(SiteObject::bounds)
            .map(|(a, b)| a.middle(b));
        let heads = ids.iter().filter_map(|id| plan.drawn_head(id)).map(|(_, h)| h.at);
        let all: Vec<Point> = boxes.chain(heads).collect();
        all.iter().fold(Point::default(), |sum, p| sum + *p) * (1.0 / all.len().max(1) as f64)
    };
    Typed::Gesture(match f.text("op").as_str() {
        "move" => Gesture::Move {
            ids,
            motion: Motion::Shift {
                by: Point::new(f.length_or_zero("right").m(), f.length_or_zero("up").m()),
            },
        },
        "copy" => {
            let names = (0..ids.len()).map(|i| format!("{new}{i}")).collect();
            Gesture::Copy {
                ids,
                new: names,
                motion: Motion::Shift {
                    by: Point::new(f.length_or_zero("right").m(), f.length_or_zero("up").m()),
                },
            }
        }
        "turn" => {
            Gesture::Move { motion: Motion::Turn { about: centre(), degrees: f.number("degrees") }, ids }
        }
        "mirror" => {
            let about = centre();
            let to = if f.get("axis") == "level" {
                about + Point::new(1.0, 0.0)
            } else {
                about + Point::new(0.0, 1.0)
            };
            Gesture::Move { motion: Motion::Mirror { from: about, to }, ids }
        }
        "remove" => Gesture::Remove { ids },
        "join" => Gesture::Join { ids },
        "cut" => {
            // What lies on it: everything that is kept dry and overlaps, or what else is picked.
            let by: Vec<String> = if ids.len() > 1 { ids[1..].to_vec() } else { overlapping(plan, &id) };
            if by.is_empty() {
                f.fault("form", "no no-spray area overlaps it. Draw the pavement or building first");
            }
            Gesture::CutOut { id, by, new: (0..20).map(|i| format!("{new}{i}")).collect() }
        }
        "corner" => Gesture::Corner { id, ring, index, to: Point::new(f.length("x").m(), f.length("y").m()) },
        "corner-remove" => Gesture::RemoveCorner { id, ring, index },
        "edge" => Gesture::EdgeLength { id, ring, edge: index, length: f.length("length") },
        "bend" => Gesture::Bend { id, ring, edge: index, rise: f.length_or_zero("rise") },
        "chamfer" => Gesture::Chamfer { id, ring: 0, index: counted(f, "corner"), cut: f.length("cut") },
        "round" => Gesture::Round { id, ring: 0, index: counted(f, "corner"), radius: f.length("cut") },
        "offset" => Gesture::Offset { id, distance: f.length("distance"), new },
        "strip" => {
            let kind = new_kind(f);
            Gesture::Strip { id, ring: 0, edge: counted(f, "index"), width: f.length("width"), new, kind }
        }
        "nozzle" => Gesture::ChangeNozzle { ids, nozzle: f.text("nozzle"), group: new },
        "valve" => Gesture::HeadsToValve { ids, valve: Some(f.text("valve")).filter(|v| !v.is_empty()) },
        "arc" => {
            let (arc, facing) = (f.count("arc").min(u32::from(u16::MAX)) as u16, f.number("degrees"));
            let edits = ids.iter().filter_map(|id| plan.drawn_head(id)).map(|(g, h)| {
                let head = fenlo_core::plan::DrawnHead { arc, facing: facing.rem_euclid(360.0), ..h.clone() };
                Edit::put_head(g.id.clone(), head)
            });
            return Typed::Edit(Box::new(Edit::batch(edits.collect())));
        }
        "lock" => Gesture::LockHeads { ids, locked: true },
        "unlock" => Gesture::LockHeads { ids, locked: false },
        "even" => {
            let moves: Vec<Edit> = even_out(plan, &ids).iter().filter_map(|g| g.edit(plan).ok()).collect();
            if moves.is_empty() {
                f.fault("form", "already evenly spaced, or fewer than three heads");
            }
            return Typed::Edit(Box::new(Edit::batch(moves)));
        }
        "throw" => Gesture::ThrowHead { ids, radius: f.length_if_any("radius") },
        "place-head" => Gesture::Move {
            motion: Motion::Shift {
                by: Point::new(f.length("x").m(), f.length("y").m())
                    - plan.drawn_head(&id).map_or_else(Point::default, |(_, h)| h.at),
            },
            ids,
        },
        "north" => Gesture::North { degrees: f.number("degrees") },
        "rectangle" => {
            let kind = new_kind(f);
            let step = if plan.units.is_metric() { 1.0 } else { 5.0 * M_PER_FT };
            let beside = plan.site.beside(step);
            let at = |typed: Option<Length>, free: f64| typed.map_or(free, Length::m);
            let corner = Point::new(at(f.length_if_any("x"), beside.x), at(f.length_if_any("y"), beside.y));
            let (along, across) = (f.length("along"), f.length("across"));
            let outline = rectangle(corner, f.number("degrees"), along, across).unwrap_or_else(|e| {
                f.fault("along", e.to_string());
                Outline::default()
            });
            Gesture::Add {
                thing: SiteObject { name: f.text("name"), ..kind.thing(&new, Shape::plain(outline)) },
            }
        }
        "point" => {
            let at = Point::new(f.length_or_zero("x").m(), f.length_or_zero("y").m());
            let what = match f.text("kind").as_str() {
                "height" => ObjectKind::Height(SpotHeight { at, height: f.length("length") }),
                "note" => ObjectKind::Note(Note { at, text: f.text("text") }),
                "plant" => ObjectKind::Plant(Planting { canopy: f.length("length"), at, to: None, count: 1 }),
                _ => ObjectKind::Place(PlaceMark { kind: f.choice("kind"), at, supply: None }),
            };
            Gesture::Add { thing: SiteObject { id: new, name: f.text("name"), what } }
        }
        other => {
            f.fault("form", format!("unknown action ‘{}’", other.chars().take(20).collect::<String>()));
            Gesture::Remove { ids: Vec::new() }
        }
    })
}

/// A name that nothing on the board has and that somebody else drawing now will hardly choose.
fn fresh(plan: &fenlo_core::plan::Plan) -> String {
    let stamp =
        std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH).map_or(0, |d| d.as_micros());
    plan.fresh_id('t').to_owned() + &format!("{:x}", stamp & 0xff_ffff)
}

/// A corner or an edge as people count them, from 1.
fn counted(f: &mut Fields, field: &str) -> usize {
    let n = f.count(field);
    if n == 0 && f.errors.is_empty() {
        f.fault(field, "counts from 1");
    }
    (n as usize).wrapping_sub(1)
}

fn new_kind(f: &mut Fields) -> NewKind {
    let text = f.text("kind");
    let read = match text.split_once(':') {
        Some(("area", kind)) => serde_json::from_value(kind.into()).ok().map(NewKind::Area),
        Some(("dry", kind)) => serde_json::from_value(kind.into()).ok().map(NewKind::Dry),
        _ => None,
    };
    read.unwrap_or_else(|| {
        f.fault("kind", "choose one from the list");
        NewKind::Area(Default::default())
    })
}

/// What is kept dry and overlaps a thing.
fn overlapping(plan: &fenlo_core::plan::Plan, id: &str) -> Vec<String> {
    let Some(shape) = plan.site.object(id).and_then(SiteObject::shape) else {
        return Vec::new();
    };
    let dry = plan.site.objects.iter().filter(|t| matches!(t.what, ObjectKind::Dry(_)) && t.id != id);
    dry.filter(|t| {
        t.shape().is_some_and(|s| {
            !matches!(fenlo_core::site::cut(shape, &[s]), Err(fenlo_core::site::CombineError::NoOverlap))
        })
    })
    .map(|t| t.id.clone())
    .collect()
}

/// Two tapes from two known points.
#[derive(Deserialize)]
pub struct Tapes {
    ax: f64,
    ay: f64,
    a: String,
    bx: f64,
    by: f64,
    b: String,
}

/// Where two tapes meet, for the hands to pick from: `{points: [[x, y], [x, y]]}` or `{message}`.
pub async fn tapes(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(t): Query<Tapes>,
) -> Result<Response, AppError> {
    let u: UnitSystem = app.job(job).await?.job().units;
    let read = |text: &str| Length::typed(text, u).map_err(|e| e.to_string());
    let sound = |p: Point| {
        if p.is_sound() { Ok(p) } else { Err("the point is outside the drawing area".to_owned()) }
    };
    let found = (|| {
        triangulate(sound(Point::new(t.ax, t.ay))?, read(&t.a)?, sound(Point::new(t.bx, t.by))?, read(&t.b)?)
            .map_err(|e| e.show(u))
    })();
    Ok(match found {
        Ok(points) => Json(json!({ "points": points })).into_response(),
        Err(message) => {
            (axum::http::StatusCode::UNPROCESSABLE_ENTITY, Json(json!({ "message": sentence(&message) })))
                .into_response()
        }
    })
}
