//! What is picked, beside the board.

use super::gestures::sentence;
use super::{AREAS, DRY, PLACES};
use crate::app::{App, compute};
use crate::assessed::Assessed;
use crate::choices::{self, Choice, Group, word};
use crate::error::AppError;
use crate::fields::{Fields, Pairs, at_fields};
use crate::respond::{Fragments, refuse};
use crate::screens::details::base_of;
use crate::shell::{Here, Screen};
use askama::Template;
use axum::extract::{Form, Path, Query, State};
use axum::response::{Html, IntoResponse, Response};
use fenlo_core::board::save_object;
use fenlo_core::catalogue::{Catalogue, Kind};
use fenlo_core::layout::advise;
use fenlo_core::plan::{DrawnHead, HeadGroup, Plan};
use fenlo_core::site::{Form as GroundForm, ObjectKind, Outline, Point, SiteObject, Vertex};
use fenlo_core::units::{Length, Surface, UnitSystem};
use fenlo_words::Working;
use serde::Deserialize;

#[derive(Template)]
#[template(path = "parts/sheet_none.html")]
struct Nothing {
    job: i64,
    figures: Vec<Figure>,
    north: f64,
    underlay: bool,
    strength: f64,
}

#[derive(Template)]
#[template(path = "parts/sheet_thing.html")]
struct One<'a> {
    job: i64,
    id: &'a str,
    title: String,
    kind_word: &'static str,
    is: &'static str,
    figures: Vec<Figure>,
    name: &'a str,
    kinds: Vec<Choice>,
    plants: String,
    water_uses: Vec<Choice>,
    soils: Vec<Choice>,
    exposures: Vec<Choice>,
    winds: Vec<Choice>,
    slope: String,
    toward: String,
    height: String,
    supplies: Vec<Choice>,
    canopy: String,
    count: u32,
    x: String,
    y: String,
    to_x: String,
    to_y: String,
    text: String,
    rings: Vec<Ring>,
    corners: usize,
    closed: bool,
    strip_kinds: Vec<Group>,
    layout: Option<Layout>,
}

/// What can be laid out on an area.
struct Layout {
    why: String,
    kinds: Vec<Choice>,
    drawn: usize,
    locked: usize,
}

struct Figure {
    label: &'static str,
    value: String,
    working: Option<Working>,
}

struct Ring {
    number: usize,
    word: String,
    rows: Vec<Corner>,
}

struct Corner {
    index: usize,
    number: usize,
    x: String,
    y: String,
    length: Option<String>,
    rise: String,
}

#[derive(Template)]
#[template(path = "parts/sheet_heads.html")]
struct Heads {
    job: i64,
    ids: String,
    title: String,
    figures: Vec<Figure>,
    single: bool,
    several: bool,
    locked: bool,
    nozzles: Vec<Group>,
    valves: Vec<Choice>,
    arc: String,
    facing: String,
    radius: String,
    full: String,
    x: String,
    y: String,
}

#[derive(Template)]
#[template(path = "parts/sheet_many.html")]
struct Many {
    job: i64,
    ids: String,
    count: usize,
    things: Vec<(String, String)>,
    grounds: usize,
}

const WATER_USES: [(&str, &str); 3] = [("low", "little"), ("medium", "medium"), ("high", "much")];
const WINDS: [(&str, &str); 3] = [
    ("calm", "calm, to 3 mph"),
    ("breeze", "4 to 7 mph"),
    ("windy", "8 to 12 mph"),
];
/// Corners that are listed with fields; more are moved on the board.
const MOST_LISTED: usize = 60;
/// Things that a total names one by one.
const MOST_NAMED: usize = 12;

pub const THING_FIELDS: [&str; 19] = [
    "name",
    "kind",
    "plants",
    "water_use",
    "soil",
    "exposure",
    "wind",
    "slope",
    "slope_percent",
    "toward",
    "slope_toward",
    "height",
    "supply",
    "canopy",
    "count",
    "x",
    "y",
    "text",
    "to_x",
];

#[derive(Deserialize)]
pub struct Picked {
    #[serde(default)]
    ids: String,
}

pub async fn page(
    State(app): State<App>,
    Path(job): Path<i64>,
    Query(picked): Query<Picked>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let ids: Vec<String> = picked
        .ids
        .split(',')
        .filter(|i| !i.is_empty())
        .take(5_000)
        .map(str::to_owned)
        .collect();
    compute(move || Ok(Html(html(&known, &ids)?).into_response())).await?
}

pub fn html(known: &Assessed, ids: &[String]) -> Result<String, AppError> {
    let plan = known.job();
    let things: Vec<&SiteObject> = ids.iter().filter_map(|id| plan.site.object(id)).collect();
    let heads: Vec<(&HeadGroup, &DrawnHead)> = ids.iter().filter_map(|id| plan.drawn_head(id)).collect();
    Ok(match (things.as_slice(), heads.as_slice()) {
        ([], []) => nothing(known).render()?,
        ([one], []) => thing(known, one).render()?,
        ([], heads) => head_sheet(known, heads).render()?,
        (things, heads) => {
            let rows = things
                .iter()
                .map(|t| (t.id.clone(), t.title().to_owned()))
                .take(40)
                .collect();
            let grounds = things.iter().filter(|t| t.shape().is_some()).count();
            Many {
                job: known.open.id,
                ids: ids.join(","),
                count: things.len() + heads.len(),
                things: rows,
                grounds,
            }
            .render()?
        }
    })
}

fn nothing(known: &Assessed) -> Nothing {
    let plan = known.job();
    let heads: usize = plan.groups.iter().map(|g| g.drawn.len()).sum();
    let count = |label, n: usize| Figure {
        label,
        value: n.to_string(),
        working: None,
    };
    Nothing {
        job: known.open.id,
        figures: vec![
            total(plan, true),
            total(plan, false),
            count("Areas", plan.site.areas().count()),
            count("Heads drawn", heads),
        ],
        north: plan.site.north,
        underlay: plan.site.underlay.is_some(),
        strength: plan.site.underlay.as_ref().map_or(0.5, |p| p.strength),
    }
}

/// Ground of all areas, or of all that is kept dry, with the largest named.
fn total(plan: &Plan, watered: bool) -> Figure {
    let u = plan.units;
    let mut parts: Vec<(&str, f64)> = plan
        .site
        .objects
        .iter()
        .filter(|t| matches!(t.what, ObjectKind::Area(_)) == watered)
        .filter_map(|t| Some((t.title(), t.shape()?.area_m2())))
        .collect();
    let sum = Surface::from_m2(parts.iter().map(|p| p.1).sum()).show(u);
    parts.sort_by(|a, b| b.1.total_cmp(&a.1));
    let rest = parts.split_off(parts.len().min(MOST_NAMED));
    let mut working = parts.iter().fold(
        Working::new(
            "sum of what is drawn",
            "each by its own outline; overlaps count twice",
        ),
        |w, (name, m2)| w.with(*name, Surface::from_m2(*m2).show(u)),
    );
    if !rest.is_empty() {
        working = working.with(
            format!("{} more", rest.len()),
            Surface::from_m2(rest.iter().map(|p| p.1).sum()).show(u),
        );
    }
    Figure {
        label: if watered { "Watered" } else { "Kept dry" },
        value: sum.clone(),
        working: Some(working.gives(sum)),
    }
}

fn corners(rings: &[(&[Vertex], bool)], u: UnitSystem) -> Vec<Ring> {
    let mut out = Vec::new();
    for (number, (vertices, closed)) in rings.iter().enumerate() {
        let edges: Vec<_> = if *closed {
            Outline(vertices.to_vec()).edges().collect()
        } else {
            fenlo_core::site::Path(vertices.to_vec()).edges().collect()
        };
        let rows = vertices
            .iter()
            .enumerate()
            .map(|(index, v)| {
                let edge = edges.get(index);
                let rise = edge.map_or(0.0, |e| e.bulge * e.from.distance(e.to) / 2.0);
                Corner {
                    index,
                    number: index + 1,
                    x: Length::from_m(v.at.x).field(u),
                    y: Length::from_m(v.at.y).field(u),
                    length: edge.map(|e| Length::from_m(e.length()).field(u)),
                    rise: if rise == 0.0 {
                        String::new()
                    } else {
                        Length::from_m(rise).field(u)
                    },
                }
            })
            .collect();
        out.push(Ring {
            number,
            word: if number == 0 {
                String::new()
            } else {
                format!("Hole {number}")
            },
            rows,
        });
    }
    out
}

fn thing<'a>(known: &'a Assessed, t: &'a SiteObject) -> One<'a> {
    let plan = known.job();
    let u = plan.units;
    let length = |m: f64| Length::from_m(m).field(u);
    let mut one = One {
        job: known.open.id,
        id: &t.id,
        title: t.title().to_owned(),
        kind_word: t.kind_word(),
        is: "",
        figures: figures(plan, t),
        layout: matches!(t.what, ObjectKind::Area(_)).then(|| layout(plan, &t.id)),
        name: &t.name,
        kinds: Vec::new(),
        plants: String::new(),
        water_uses: Vec::new(),
        soils: Vec::new(),
        exposures: Vec::new(),
        winds: Vec::new(),
        slope: String::new(),
        toward: String::new(),
        height: String::new(),
        supplies: Vec::new(),
        canopy: String::new(),
        count: 1,
        x: String::new(),
        y: String::new(),
        to_x: String::new(),
        to_y: String::new(),
        text: String::new(),
        rings: Vec::new(),
        corners: 0,
        closed: t.shape().is_some(),
        strip_kinds: vec![
            Group {
                label: "watered".into(),
                options: prefixed("area", &AREAS),
            },
            Group {
                label: "kept dry".into(),
                options: prefixed("dry", &DRY),
            },
        ],
    };
    let mut place = |at: Point| (one.x, one.y) = (length(at.x), length(at.y));
    match &t.what {
        ObjectKind::Area(a) => {
            one.is = "area";
            one.kinds = choices::of(&AREAS, &word(&a.kind));
            one.plants.clone_from(&a.plants);
            one.water_uses = choices::of(&WATER_USES, &word(&a.water_use));
            one.soils = choices::of(&choices::SOILS, &word(&a.soil));
            one.exposures = choices::of(&choices::EXPOSURES, &word(&a.exposure));
            one.winds = choices::of(&WINDS, &word(&a.wind));
            one.slope = format!("{}", a.slope_percent);
            one.toward = a.slope_toward.map_or(String::new(), |d| format!("{d:.0}"));
        }
        ObjectKind::Dry(d) => {
            one.is = "dry";
            one.kinds = choices::of(&DRY, &word(&d.kind));
            one.height = d.height.map_or(String::new(), |h| h.field(u));
        }
        ObjectKind::Place(p) => {
            one.is = "place";
            one.kinds = choices::of(&PLACES, &word(&p.kind));
            one.supplies = std::iter::once(Choice {
                value: String::new(),
                label: "any".into(),
                chosen: p.supply.is_none(),
            })
            .chain(choices::supplies(plan, p.supply.as_deref().unwrap_or("")))
            .collect();
            place(p.at);
        }
        ObjectKind::Plant(p) => {
            one.is = "plant";
            one.canopy = p.canopy.field(u);
            one.count = p.count;
            place(p.at);
            if let Some(to) = p.to {
                (one.to_x, one.to_y) = (length(to.x), length(to.y));
            }
        }
        ObjectKind::Height(h) => {
            one.is = "height";
            one.height = h.height.field(u);
            place(h.at);
        }
        ObjectKind::Note(n) => {
            one.is = "note";
            one.text.clone_from(&n.text);
            place(n.at);
        }
    }
    let rings: Vec<(&[Vertex], bool)> = match (t.shape(), t.line()) {
        (Some(shape), _) => shape.rings().map(|r| (r.0.as_slice(), true)).collect(),
        (None, Some(line)) => vec![(line.0.as_slice(), false)],
        _ => Vec::new(),
    };
    one.corners = rings.iter().map(|r| r.0.len()).sum();
    if one.corners <= MOST_LISTED {
        one.rings = corners(&rings, u);
    }
    one
}

/// Kinds that throw, the one that suits first.
fn layout(plan: &Plan, area: &str) -> Layout {
    let advice = advise(plan, area);
    let kind = advice.as_ref().map_or(Kind::Spray, |a| {
        if a.kind.is_drip() || a.kind == Kind::Bubbler {
            Kind::RotatorShort
        } else {
            a.kind
        }
    });
    let catalogue = Catalogue::builtin();
    let kinds = LAID_OUT
        .iter()
        .map(|k| Choice {
            value: word(k),
            label: catalogue.class(*k).label.clone(),
            chosen: *k == kind,
        })
        .collect();
    let here = || {
        plan.groups
            .iter()
            .filter(|g| g.area.as_deref() == Some(area))
            .flat_map(|g| &g.drawn)
    };
    let why = advice.map_or(String::new(), |a| {
        format!(
            "Suits here: {} ({}).",
            fenlo_words::kind(a.kind).to_lowercase(),
            fenlo_words::advice(&a, plan.units)
        )
    });
    Layout {
        why,
        kinds,
        drawn: here().count(),
        locked: here().filter(|h| h.locked).count(),
    }
}

/// Kinds of head that can be laid out.
pub const LAID_OUT: [Kind; 6] = [
    Kind::Spray,
    Kind::RotatorShort,
    Kind::Rotator,
    Kind::RotorShort,
    Kind::RotorMid,
    Kind::RotorLarge,
];

fn prefixed(prefix: &str, list: &[(&str, &str)]) -> Vec<Choice> {
    list.iter()
        .filter(|(v, _)| !["wall", "window"].contains(v))
        .map(|(v, l)| Choice {
            value: format!("{prefix}:{v}"),
            label: (*l).to_owned(),
            chosen: *v == "path",
        })
        .collect()
}

fn figures(plan: &Plan, t: &SiteObject) -> Vec<Figure> {
    let u = plan.units;
    let mut figures = Vec::new();
    if let Some(shape) = t.shape() {
        let holes: f64 = shape.holes.iter().map(|h| h.signed_area().abs()).sum();
        let arcs = shape
            .rings()
            .flat_map(Outline::edges)
            .filter(|e| e.bulge != 0.0)
            .count();
        let working = Working::new(
            "½·|Σ (xᵢ·yᵢ₊₁ − xᵢ₊₁·yᵢ)| over the corners, with r²/2·(θ − sin θ) for every arc; less holes",
            "surveyor's formula; segment of a circle",
        )
        .with(
            "corners",
            shape.rings().map(|r| r.0.len()).sum::<usize>().to_string(),
        )
        .with("arcs", arcs.to_string())
        .with("holes", Surface::from_m2(holes).show(u))
        .gives(Surface::from_m2(shape.area_m2()).show(u));
        figures.push(Figure {
            label: "Area",
            value: Surface::from_m2(shape.area_m2()).show(u),
            working: Some(working),
        });
        let round = Length::from_m(shape.perimeter()).show_tape(u);
        let working = Working::new(
            "Σ lengths of the edges, r·θ for an arc, holes too",
            "tape round the edge",
        )
        .gives(round.clone());
        figures.push(Figure {
            label: "Round",
            value: round,
            working: Some(working),
        });
    }
    if let Some(line) = t.line() {
        let value = Length::from_m(line.length()).show_tape(u);
        let edges = line.edges().take(MOST_NAMED).enumerate();
        let working = edges.fold(
            Working::new("Σ lengths of the pieces, r·θ for an arc", "tape along the line"),
            |w, (i, e)| {
                w.with(
                    format!("piece {}", i + 1),
                    Length::from_m(e.length()).show_tape(u),
                )
            },
        );
        figures.push(Figure {
            label: "Length",
            working: Some(working.gives(value.clone())),
            value,
        });
    }
    let spots = plan.site.heights();
    if let (Some((low, high)), false) = (t.bounds(), spots.is_empty()) {
        let at = low.middle(high);
        let height = plan.ground(at).show(u);
        let working = Working::new(
            "Σ wᵢ·hᵢ / Σ wᵢ with wᵢ = 1/dᵢ² over the spot heights",
            "Shepard 1968",
        )
        .with("spot heights", spots.len().to_string())
        .with(
            "nearest",
            Length::from_m(spots.iter().map(|s| s.0.distance(at)).fold(f64::MAX, f64::min)).show_tape(u),
        )
        .gives(height.clone());
        figures.push(Figure {
            label: "Height",
            value: height,
            working: Some(working),
        });
    }
    let heads = plan
        .groups
        .iter()
        .filter(|g| g.area.as_deref() == Some(&t.id))
        .map(|g| g.drawn.len())
        .sum::<usize>();
    if matches!(t.what, ObjectKind::Area(_)) {
        figures.push(Figure {
            label: "Heads",
            value: heads.to_string(),
            working: None,
        });
    }
    figures
}

fn head_sheet(known: &Assessed, heads: &[(&HeadGroup, &DrawnHead)]) -> Heads {
    let plan = known.job();
    let u = plan.units;
    let (group, head) = heads[0];
    let nozzle = plan.catalogue().nozzle(&group.nozzle);
    let full = nozzle.and_then(|n| n.radius).unwrap_or(group.spacing);
    let same = |f: fn(&(&HeadGroup, &DrawnHead)) -> String| {
        if heads.iter().all(|h| f(h) == f(&heads[0])) {
            f(&heads[0])
        } else {
            String::new()
        }
    };
    let single = heads.len() == 1;
    let mut figures = Vec::new();
    if single {
        let index = group
            .drawn
            .iter()
            .position(|d| d.id == head.id)
            .map_or(0, |i| i as u32);
        let zone = head
            .valve
            .as_deref()
            .and_then(|v| known.assessment.zone(v))
            .and_then(|z| z.zone.as_ref().ok());
        if let Some((zone, at)) = zone.and_then(|z| {
            Some((
                z,
                z.heads
                    .iter()
                    .position(|r| r.head.group == group.id && r.head.index == index)?,
            ))
        }) {
            let workings = fenlo_words::head_workings(zone, at, plan);
            let result = &zone.heads[at];
            for (label, value) in [
                ("Pressure", result.nozzle.show(u)),
                ("Flow", result.flow.show(u)),
                ("Throw", String::new()),
            ] {
                let working = workings.iter().find(|w| w.0 == label).map(|w| w.1.clone());
                let value = if value.is_empty() {
                    working.as_ref().map_or(String::new(), |w| w.result.clone())
                } else {
                    value
                };
                figures.push(Figure {
                    label,
                    value,
                    working,
                });
            }
        } else {
            let value = format!("{} at nominal pressure", head.radius.unwrap_or(full).show(u));
            let working = Working::new(
                "the chart's throw, or less where it is turned down",
                "typical of the class; on no valve no pressure is known",
            )
            .with("chart", full.show(u))
            .with(
                "turned to",
                head.radius.map_or_else(|| "full".to_owned(), |r| r.show(u)),
            );
            figures.push(Figure {
                label: "Throw",
                working: Some(working.gives(value.clone())),
                value,
            });
        }
    }
    let valve = same(|h| h.1.valve.clone().unwrap_or_default());
    let any = std::iter::once(Choice {
        value: String::new(),
        label: "no valve yet".into(),
        chosen: valve.is_empty(),
    });
    Heads {
        job: known.open.id,
        ids: heads
            .iter()
            .map(|h| h.1.id.as_str())
            .collect::<Vec<_>>()
            .join(","),
        title: if single {
            nozzle.map_or_else(|| "Head".to_owned(), |n| fenlo_words::nozzle(n, u))
        } else {
            format!("{} heads", heads.len())
        },
        figures,
        single,
        several: heads.len() > 2,
        locked: heads.iter().all(|h| h.1.locked),
        nozzles: choices::nozzles(plan.catalogue(), &same(|h| h.0.nozzle.clone()), u)
            .into_iter()
            .filter(|g| g.options.iter().any(|o| super::throws(plan, &o.value)))
            .collect(),
        valves: any.chain(choices::valves(plan, Some(&valve))).collect(),
        arc: same(|h| h.1.arc.to_string()),
        facing: same(|h| format!("{:.0}", h.1.facing)),
        radius: if heads.iter().all(|h| h.1.radius == head.radius) {
            head.radius.unwrap_or(full).field(u)
        } else {
            String::new()
        },
        full: full.show(u),
        x: Length::from_m(head.at.x).field(u),
        y: Length::from_m(head.at.y).field(u),
    }
}

/// Saves what a thing is; its place and shape are left alone but for things at a point.
pub async fn save(
    State(app): State<App>,
    Path((job, id)): Path<(i64, String)>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let was = known
        .job()
        .site
        .object(&id)
        .ok_or_else(|| AppError::Conflict("this was taken off the board".into()))?;
    let mut f = Fields::new(pairs, known.job().units);
    let now = read(&mut f, was);
    if !f.errors.is_empty() {
        return Ok(refuse("thing", &THING_FIELDS, &f.errors));
    }
    let edit = save_object(known.job(), now);
    match app.edit(job, base_of(&f, &known), edit).await {
        Ok(known) => saved(
            &known,
            "thing",
            &THING_FIELDS
                .into_iter()
                .filter(|field| f.has(field))
                .collect::<Vec<_>>(),
        ),
        Err(AppError::Faults(faults)) => Ok(refuse(
            "thing",
            &THING_FIELDS,
            &at_fields(&faults, &THING_FIELDS)
                .into_iter()
                .map(|(f, m)| (f, sentence(&m)))
                .collect::<Vec<_>>(),
        )),
        Err(error) => Err(error),
    }
}

/// The answer to a form of the sheet: the board fetches what changed by itself.
pub fn saved(known: &Assessed, form: &str, fields: &[&str]) -> Result<Response, AppError> {
    let mut out = Fragments::of(known, &Here::at(Screen::Ground, None))?;
    out.clear(form, fields);
    let mut response = out.done();
    response.headers_mut().insert(
        "hx-trigger",
        axum::http::HeaderValue::from_static("board-changed"),
    );
    Ok(response)
}

fn read(f: &mut Fields, was: &SiteObject) -> SiteObject {
    let mut now = SiteObject {
        name: f.text("name"),
        ..was.clone()
    };
    let at = |f: &mut Fields| Point::new(f.length("x").m(), f.length("y").m());
    match &mut now.what {
        ObjectKind::Area(a) => {
            a.kind = f.choice("kind");
            a.plants = f.text("plants");
            a.water_use = f.choice("water_use");
            a.soil = f.choice("soil");
            a.exposure = f.choice("exposure");
            a.wind = f.choice("wind");
            a.slope_percent = f.percent("slope");
            a.slope_toward = f.degrees_if_any("toward");
        }
        ObjectKind::Dry(d) => {
            let kind: fenlo_core::site::DryKind = f.choice("kind");
            use fenlo_core::site::DryKind::{Wall, Window};
            if matches!(d.form, GroundForm::Region(_)) && matches!(kind, Wall | Window) {
                f.fault("kind", "walls and windows are drawn as lines");
            }
            d.kind = kind;
            d.height = f.length_if_any("height");
        }
        ObjectKind::Place(p) => {
            p.kind = f.choice("kind");
            p.supply = Some(f.text("supply")).filter(|s| !s.is_empty());
            p.at = at(f);
        }
        ObjectKind::Plant(p) => {
            p.canopy = f.length("canopy");
            p.count = f.count("count");
            p.at = at(f);
            p.to = if f.get("to_x").is_empty() {
                None
            } else {
                Some(Point::new(f.length("to_x").m(), f.length("to_y").m()))
            };
        }
        ObjectKind::Height(h) => {
            h.height = f.length("height");
            h.at = at(f);
        }
        ObjectKind::Note(n) => {
            n.text = f.text("text");
            n.at = at(f);
        }
    }
    now
}
