//! Heads: groups of one nozzle on one area, listed.

use super::details::base_of;
use super::{render_body, render_page};
use crate::app::App;
use crate::assessed::Assessed;
use crate::choices::{self, Choice, Group};
use crate::error::{AppError, escape};
use crate::fields::{Fields, Pairs, at_fields};
use crate::respond::{Fragments, refuse};
use crate::shell::{Here, Screen};
use askama::Template;
use axum::extract::{Form, Path, State};
use axum::response::Response;
use fenlo_core::catalogue::{ArcRule, Catalogue, Kind};
use fenlo_core::job::Job;
use fenlo_core::plan::{DripRow, Edit, HeadGroup};
use fenlo_core::units::{Flow, Length, UnitSystem};
use fenlo_core::usual;
use fenlo_core::zoning::{put_on_valves, remove_group};

#[derive(Template)]
#[template(path = "heads.html")]
struct Page {
    job: i64,
    total: String,
    groups: String,
    nozzles: Vec<Group>,
}

#[derive(Template)]
#[template(path = "parts/group.html")]
struct Card<'a> {
    job: i64,
    id: &'a str,
    form: String,
    name: &'a str,
    says: String,
    nozzles: Vec<Group>,
    drawn: bool,
    fixed: bool,
    rows: bool,
    rows_word: &'static str,
    spacing_word: &'static str,
    a90: String,
    a180: String,
    a270: String,
    a360: String,
    other: String,
    row_emitters: String,
    emitter_spacing: String,
    arrangements: Vec<Choice>,
    spacing: String,
    row_spacing: String,
    pipes: Vec<Choice>,
    feeds: Vec<Choice>,
    distance: String,
    rise: String,
    plants: Vec<Choice>,
    exposures: Vec<Choice>,
    soils: Vec<Choice>,
    slope: String,
}

const FIELDS: [&str; 21] = [
    "name",
    "nozzle",
    "a90",
    "a180",
    "a270",
    "a360",
    "other",
    "lots",
    "row_emitters",
    "emitter_spacing",
    "arrangement",
    "spacing",
    "row_spacing",
    "pipe",
    "feed_pipe",
    "distance",
    "rise",
    "plants",
    "exposure",
    "soil",
    "slope",
];
const COMMON_ARCS: [u16; 4] = [90, 180, 270, 360];

fn is_rows(kind: Kind) -> bool {
    matches!(kind, Kind::Dripline | Kind::Tape)
}

pub fn body(known: &Assessed) -> Result<String, AppError> {
    let cards: Result<String, AppError> = known.job().groups.iter().map(|g| card(known, g)).collect();
    Ok(Page {
        job: known.open.id,
        total: total(known),
        groups: cards?,
        nozzles: choices::nozzles(known.job().catalogue(), "spray-12", known.job().units),
    }
    .render()?)
}

fn total(known: &Assessed) -> String {
    let plan = known.job();
    let heads: u32 = plan.groups.iter().map(HeadGroup::count).sum();
    let flow: Flow = plan.groups.iter().map(|g| nominal(plan, g)).sum();
    format!(
        "<b>{heads}</b> heads or rows, <b>{}</b> at nominal pressure, on <b>{}</b> valves",
        flow.show(plan.units),
        plan.valves.len()
    )
}

fn nominal(plan: &Job, group: &HeadGroup) -> Flow {
    let emitters = f64::from(group.row.map_or(1, |r| r.emitters));
    let nozzle = plan.catalogue().nozzle(&group.nozzle);
    nozzle.map_or(Flow::ZERO, |n| {
        group.heads().map(|h| n.flow_for_arc(h.1)).sum::<Flow>() * emitters
    })
}

fn says(known: &Assessed, group: &HeadGroup) -> String {
    let plan = known.job();
    let u = plan.units;
    let mut valves: Vec<String> = Vec::new();
    for valve in plan.valves.iter().filter(|v| group.is_on(&v.id)) {
        let n = plan.valve_number(&valve.id);
        let low = known
            .assessment
            .zone(&valve.id)
            .and_then(|z| z.zone.as_ref().ok())
            .map(|z| {
                let of_group = z
                    .heads
                    .iter()
                    .filter(|h| h.head.group == group.id)
                    .map(|h| h.nozzle);
                of_group.fold(z.highest().nozzle, |a, b| a.min(b))
            });
        let low = low.map_or(String::new(), |p| format!(", lowest {}", p.show(u)));
        valves.push(format!(
            r#"<a href="/jobs/{}/valves?valve={}">valve {n}</a>{low}"#,
            known.open.id,
            escape(&valve.id)
        ));
    }
    let loose = group.heads_on(None).len();
    if loose > 0 {
        valves.push(format!("<b>{loose} on no valve</b>"));
    }
    let where_to = if group.is_drawn() {
        format!(
            r#" <a href="/jobs/{}/ground">drawn on the board</a>"#,
            known.open.id
        )
    } else {
        String::new()
    };
    format!(
        "{} heads{where_to}, {} · {}",
        group.count(),
        nominal(known.job(), group).show(u),
        valves.join(" · ")
    )
}

fn card(known: &Assessed, group: &HeadGroup) -> Result<String, AppError> {
    let u = known.job().units;
    let nozzle = known.job().catalogue().nozzle(&group.nozzle);
    let rows = nozzle.is_some_and(|n| is_rows(n.kind));
    let counts = group.counts_by_arc();
    let of = |arc: u16| {
        counts
            .iter()
            .find(|c| c.0 == arc)
            .map_or(String::new(), |c| c.1.to_string())
    };
    let other: Vec<String> = counts
        .iter()
        .filter(|c| !COMMON_ARCS.contains(&c.0))
        .map(|c| format!("{} x {}", c.1, c.0))
        .collect();
    Ok(Card {
        job: known.open.id,
        id: &group.id,
        form: group.id.clone(),
        name: &group.name,
        says: says(known, group),
        drawn: group.is_drawn(),
        nozzles: choices::nozzles(known.job().catalogue(), &group.nozzle, known.job().units),
        fixed: nozzle.is_some_and(|n| n.arc_rule == ArcRule::Fixed),
        rows,
        rows_word: if rows { "Rows" } else { "How many" },
        spacing_word: if rows { "Rows apart" } else { "Between heads" },
        a90: of(90),
        a180: of(180),
        a270: of(270),
        a360: of(360),
        other: other.join(", "),
        row_emitters: group.row.map_or(String::new(), |r| r.emitters.to_string()),
        emitter_spacing: group.row.map_or(String::new(), |r| small(r.emitter_spacing, u)),
        arrangements: choices::of(&choices::ARRANGEMENTS, &choices::word(&group.arrangement)),
        spacing: small(group.spacing, u),
        row_spacing: group.row_spacing.map_or(String::new(), |s| s.field(u)),
        pipes: choices::pipes(Some(&group.pipe), None),
        feeds: choices::pipes(group.feed_pipe.as_ref(), Some("same as lateral")),
        distance: group.distance.field(u),
        rise: group.rise.field(u),
        plants: choices::of(&choices::PLANTS, &choices::word(&group.plants)),
        exposures: choices::of(&choices::EXPOSURES, &choices::word(&group.exposure)),
        soils: choices::of(&choices::SOILS, &choices::word(&group.soil)),
        slope: format!("{}", group.slope_percent),
    }
    .render()?)
}

/// Drip spacings are spoken of in inches.
fn small(length: Length, units: UnitSystem) -> String {
    if units == UnitSystem::Us && length.ft() < 3.0 {
        let inches = (length.inches() * 100.0).round() / 100.0;
        format!("{inches} in")
    } else {
        length.field(units)
    }
}

pub async fn page(State(app): State<App>, Path(job): Path<i64>) -> Result<Response, AppError> {
    render_page(app.job(job).await?, Here::at(Screen::Heads, None)).await
}

/// A new group with what is usual, to be changed in place.
fn usual(job: &Job, f: &mut Fields) -> HeadGroup {
    let count = f.count("count");
    if count == 0 {
        f.fault("count", "say how many: 1 or more");
    }
    let arc = f.get("arc").parse().unwrap_or(180);
    usual::group(job, f.get("name"), f.get("nozzle"), arc, count)
}

pub async fn add(
    State(app): State<App>,
    Path(job): Path<i64>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let mut f = Fields::new(pairs, known.job().units);
    let group = usual(known.job(), &mut f);
    let fields = ["name", "nozzle", "count", "arc"];
    if !f.errors.is_empty() {
        return Ok(refuse("new", &fields, &f.errors));
    }
    let base = base_of(&f, &known);
    let edit = put_on_valves(known.job(), &known.assessment.design_flows(), Edit::put(group));
    match app.edit(job, base, edit).await {
        Ok(known) => render_body(known, Here::at(Screen::Heads, None)).await,
        Err(AppError::Faults(faults)) => Ok(refuse("new", &fields, &at_fields(&faults, &fields))),
        Err(error) => Err(error),
    }
}

fn counts(f: &mut Fields) -> Vec<(u16, u32)> {
    let mut counts: Vec<(u16, u32)> = COMMON_ARCS
        .iter()
        .map(|arc| (*arc, f.count(&format!("a{arc}"))))
        .collect();
    let other = f.text("other");
    for pair in other.split(',').map(str::trim).filter(|p| !p.is_empty()).take(20) {
        let read = pair.split_once(['x', 'X', '×']).and_then(|(n, arc)| {
            Some((
                arc.trim().trim_end_matches('°').parse().ok()?,
                n.trim().parse().ok()?,
            ))
        });
        match read {
            Some(pair) => counts.push(pair),
            None => f.fault(
                "other",
                format!(
                    "‘{}’: write how many x arc, e.g. 2 x 120",
                    pair.chars().take(20).collect::<String>()
                ),
            ),
        }
    }
    counts.retain(|c| c.1 > 0);
    counts
}

/// The group as the form has it now.
fn read(catalogue: &Catalogue, f: &mut Fields, was: &HeadGroup) -> HeadGroup {
    let nozzle = catalogue.nozzle(f.get("nozzle"));
    let rows = nozzle.is_some_and(|n| is_rows(n.kind));
    let fixed = nozzle.is_some_and(|n| n.arc_rule == ArcRule::Fixed);
    let pipe = f.parsed("pipe").unwrap_or_else(|| was.pipe.clone());
    let feed_pipe = if f.get("feed_pipe").is_empty() {
        None
    } else {
        f.parsed("feed_pipe")
    };
    // What listed and drawn heads have alike.
    let common = HeadGroup {
        name: f.text("name"),
        plants: f.choice("plants"),
        exposure: f.choice("exposure"),
        soil: f.choice("soil"),
        slope_percent: f.percent("slope"),
        nozzle: f.text("nozzle"),
        pipe,
        feed_pipe,
        ..was.clone()
    };
    if was.is_drawn() {
        // Places, arcs and throws are the board's; a nozzle that can't be set so is refused there.
        return common;
    }
    let mut wanted = counts(f);
    if fixed {
        // One shape only: whatever arcs were set before are so many heads.
        let n = wanted.iter().map(|c| c.1).sum();
        wanted = vec![(360, n)];
    }
    let all_gone = wanted.iter().all(|c| c.1 == 0);
    if all_gone && f.errors.is_empty() {
        f.fault("lots", "say how many heads: one or more, or remove the area");
    }
    let mut kept = was.clone();
    if fixed {
        kept.listed.iter_mut().for_each(|l| l.arc = 360);
    }
    let row = rows.then(|| {
        if was.row.is_none() {
            return usual::row();
        }
        DripRow {
            emitters: f.count("row_emitters"),
            emitter_spacing: f.length("emitter_spacing"),
        }
    });
    HeadGroup {
        drawn: Vec::new(),
        listed: kept.with_counts(&wanted),
        arrangement: serde_json::from_value(f.text("arrangement").into()).unwrap_or(was.arrangement),
        spacing: f.length("spacing"),
        row_spacing: f.length_if_any("row_spacing"),
        distance: f.length("distance"),
        rise: f.length_or_zero("rise"),
        row,
        ..common
    }
}

pub async fn save(
    State(app): State<App>,
    Path((job, group)): Path<(i64, String)>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let was = known
        .job()
        .group(&group)
        .ok_or_else(|| AppError::Conflict("this area was removed".into()))?
        .clone();
    let mut f = Fields::new(pairs, known.job().units);
    let now = read(known.job().catalogue(), &mut f, &was);
    if !f.errors.is_empty() {
        return Ok(refuse(&group, &FIELDS, &f.errors));
    }
    let base = base_of(&f, &known);
    // Another family of nozzle has other fields: the card is drawn anew.
    let rule = |g: &HeadGroup| {
        known
            .job()
            .catalogue()
            .nozzle(&g.nozzle)
            .map(|n| (n.arc_rule, is_rows(n.kind)))
    };
    let new_card = rule(&was) != rule(&now);
    let edit = put_on_valves(known.job(), &known.assessment.design_flows(), Edit::put(now));
    match app.edit(job, base, edit).await {
        Ok(known) => {
            let mut out = Fragments::of(&known, &Here::at(Screen::Heads, None))?;
            out.put("h-total", &total(&known));
            for other in &known.job().groups {
                out.put(&format!("group-says-{}", other.id), &says(&known, other));
            }
            if let (true, Some(now)) = (new_card, known.job().group(&group)) {
                out.replace(&format!("group-{group}"), &card(&known, now)?);
            } else {
                out.clear(&group, &FIELDS);
            }
            Ok(out.done())
        }
        Err(AppError::Faults(faults)) => Ok(refuse(&group, &FIELDS, &at_fields(&faults, &FIELDS))),
        Err(error) => Err(error),
    }
}

pub async fn remove(
    State(app): State<App>,
    Path((job, group)): Path<(i64, String)>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let _plan = known.job();
    let base = base_of(&Fields::new(pairs, UnitSystem::Us), &known);
    let edit = remove_group(known.job(), &group);
    render_body(app.edit(job, base, edit).await?, Here::at(Screen::Heads, None)).await
}
