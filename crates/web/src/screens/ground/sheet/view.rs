//! What is picked, as it is shown.

use super::drip::{DripSheet, drip_sheet};
use super::figures::{Figure, figures, total};
use super::heads::head_sheet;
use super::pipe::{joint_sheet, leg_sheet, pipe_figures};
use crate::assessed::Assessed;
use crate::choices::{self, Choice, Group, word};
use crate::error::AppError;
use askama::Template;
use fenlo_core::catalogue::Kind;
use fenlo_core::layout::{LAID_OUT, advise};
use fenlo_core::plan::{DrawnHead, HeadGroup, Plan};
use fenlo_core::site::{ObjectKind, Outline, Point, SiteObject, Vertex};
use fenlo_core::units::{Length, UnitSystem};

#[derive(Template)]
#[template(path = "parts/sheet_none.html")]
struct Nothing {
    u: UnitSystem,
    job: i64,
    /// Heads on no valve.
    loose: usize,
    figures: Vec<Figure>,
    north: f64,
    underlay: bool,
    strength: f64,
    /// Heads stand on valves, so pipe can be laid to them.
    can_route: bool,
    pipes: Vec<Figure>,
    valves: Vec<Choice>,
    /// What a rectangle and a marker may be.
    rectangles: Vec<Group>,
    markers: Vec<Choice>,
}

#[derive(Template)]
#[template(path = "parts/sheet_thing.html")]
struct One<'a> {
    u: UnitSystem,
    job: i64,
    id: &'a str,
    title: String,
    kind_word: &'static str,
    is: &'static str,
    /// Heads on no valve, where some of them stand here.
    loose: usize,
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
    later: bool,
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
    drip: Option<DripSheet>,
}

/// What can be laid out on an area.
struct Layout {
    why: String,
    kinds: Vec<Choice>,
    drawn: usize,
    locked: usize,
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
#[template(path = "parts/sheet_many.html")]
struct Many {
    job: i64,
    ids: String,
    count: usize,
    things: Vec<(String, String)>,
    grounds: usize,
}

const WATER_USES: [(&str, &str); 3] = [("low", "little"), ("medium", "medium"), ("high", "much")];
const WINDS: [(&str, &str); 3] =
    [("calm", "calm, up to 3 mph"), ("breeze", "4 to 7 mph"), ("windy", "8 to 12 mph")];
const WINDS_METRIC: [(&str, &str); 3] =
    [("calm", "calm, to 5 km/h"), ("breeze", "6 to 12 km/h"), ("windy", "13 to 20 km/h")];
/// Corners that are listed with fields; more are moved on the board.
const MOST_LISTED: usize = 60;

pub fn html(known: &Assessed, ids: &[String]) -> Result<String, AppError> {
    let plan = known.job();
    let things: Vec<&SiteObject> = ids.iter().filter_map(|id| plan.site.object(id)).collect();
    let heads: Vec<(&HeadGroup, &DrawnHead)> = ids.iter().filter_map(|id| plan.drawn_head(id)).collect();
    if let [id] = ids {
        if let Some(leg) = plan.piping.leg(id) {
            return Ok(leg_sheet(known, leg).render()?);
        }
        if let Some(joint) = plan.piping.joint(id) {
            return Ok(joint_sheet(known, joint).render()?);
        }
    }
    Ok(match (things.as_slice(), heads.as_slice()) {
        ([], []) => nothing(known).render()?,
        ([one], []) => thing(known, one).render()?,
        ([], heads) => head_sheet(known, heads).render()?,
        (things, heads) => {
            let rows = things.iter().map(|t| (t.id.clone(), t.title().to_owned())).take(40).collect();
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
    let count = |label, n: usize| Figure { label, value: n.to_string(), working: None };
    Nothing {
        u: plan.units,
        loose: known.assessment.unassigned,
        job: known.open.id,
        figures: vec![
            total(plan, true),
            total(plan, false),
            count("Areas", plan.site.areas().count()),
            count("Heads on plan", heads),
        ],
        can_route: plan.groups.iter().any(|g| g.drawn.iter().any(|h| h.valve.is_some())),
        pipes: pipe_figures(known),
        valves: choices::valves(plan, None),
        rectangles: vec![
            group("Irrigated", "area", &["lawn", "bed", "hedge", "vegetables"], ""),
            group("No-spray", "dry", &["building", "paving", "path", "car-park"], ""),
        ],
        markers: choices::terms("marker", "valve-box"),
        north: plan.site.north,
        underlay: plan.site.underlay.is_some(),
        strength: plan.site.underlay.as_ref().map_or(0.5, |p| p.strength),
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
                    rise: if rise == 0.0 { String::new() } else { Length::from_m(rise).field(u) },
                }
            })
            .collect();
        out.push(Ring {
            number,
            word: if number == 0 { String::new() } else { format!("Hole {number}") },
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
        u,
        job: known.open.id,
        id: &t.id,
        title: t.title().to_owned(),
        kind_word: t.kind_word(),
        is: "",
        loose: if has_loose(plan, &t.id) { known.assessment.unassigned } else { 0 },
        figures: figures(plan, t),
        layout: matches!(t.what, ObjectKind::Area(_)).then(|| layout(plan, &t.id)),
        drip: match &t.what {
            ObjectKind::Area(area) => Some(drip_sheet(known, &t.id, area)),
            _ => None,
        },
        name: &t.name,
        kinds: Vec::new(),
        plants: String::new(),
        water_uses: Vec::new(),
        soils: Vec::new(),
        exposures: Vec::new(),
        winds: Vec::new(),
        slope: String::new(),
        toward: String::new(),
        later: false,
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
            group("Irrigated", "area", &STRIP_AREAS, ""),
            group("No-spray", "dry", &STRIP_DRY, "dry:path"),
        ],
    };
    let mut place = |at: Point| (one.x, one.y) = (length(at.x), length(at.y));
    match &t.what {
        ObjectKind::Area(a) => {
            one.is = "area";
            one.kinds = choices::terms("area", &word(&a.kind));
            one.plants.clone_from(&a.plants);
            one.water_uses = choices::of(&WATER_USES, &word(&a.water_use));
            one.soils = choices::terms("soil", &word(&a.soil));
            one.exposures = choices::terms("exposure", &word(&a.exposure));
            one.winds = choices::of(if u.is_metric() { &WINDS_METRIC } else { &WINDS }, &word(&a.wind));
            one.slope = format!("{}", a.slope_percent);
            one.later = a.later;
            one.toward = a.slope_toward.map_or(String::new(), |d| format!("{d:.0}"));
        }
        ObjectKind::Dry(d) => {
            one.is = "dry";
            one.kinds = choices::terms("dry", &word(&d.kind));
            one.height = d.height.map_or(String::new(), |h| h.field(u));
        }
        ObjectKind::Place(p) => {
            one.is = "place";
            one.kinds = choices::terms("marker", &word(&p.kind));
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

/// Whether heads on an area are on no valve.
fn has_loose(plan: &Plan, area: &str) -> bool {
    let here = plan.groups.iter().filter(|g| g.area.as_deref() == Some(area));
    here.flat_map(|g| g.heads_on(None)).next().is_some()
}

/// Kinds that throw, the one that suits first.
fn layout(plan: &Plan, area: &str) -> Layout {
    let advice = advise(plan, area);
    let kind = advice.as_ref().map_or(Kind::Spray, |a| {
        if a.kind.is_drip() || a.kind == Kind::Bubbler { Kind::RotatorShort } else { a.kind }
    });
    let kinds = LAID_OUT
        .iter()
        .map(|k| Choice { value: word(k), label: fenlo_words::kind(*k).to_owned(), chosen: *k == kind })
        .collect();
    let here = || plan.groups.iter().filter(|g| g.area.as_deref() == Some(area)).flat_map(|g| &g.drawn);
    let why = advice.map_or(String::new(), |a| {
        format!(
            "Usual here: {} ({}).",
            fenlo_words::kind(a.kind).to_lowercase(),
            fenlo_words::advice(&a, plan.units)
        )
    });
    Layout { why, kinds, drawn: here().count(), locked: here().filter(|h| h.locked).count() }
}

/// What a strip along an edge may be.
const STRIP_AREAS: [&str; 7] = ["lawn", "bed", "hedge", "slope", "trees", "containers", "vegetables"];
const STRIP_DRY: [&str; 6] = ["building", "paving", "path", "car-park", "neighbour", "no-dig"];

/// Some things of a group of terms, under a heading of a select.
fn group(label: &str, of: &str, ids: &[&str], chosen: &str) -> Group {
    let mut options = choices::prefixed(of, &format!("{of}:"), chosen);
    options.retain(|o| o.value.split_once(':').is_some_and(|(_, id)| ids.contains(&id)));
    Group { label: label.to_owned(), options }
}
