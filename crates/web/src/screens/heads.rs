//! Heads: groups of one nozzle on one area, listed.

use super::details::base_of;
use super::{again, whole};
use crate::app::{App, Assessed};
use crate::choices::{self, Choice, Group};
use crate::error::{AppError, escape};
use crate::fields::{Fields, Pairs, at_fields};
use crate::respond::{Fragments, refuse};
use crate::shell::{Here, Screen};
use askama::Template;
use axum::extract::{Form, Path, State};
use axum::response::Response;
use fenlo_core::catalogue::{ArcRule, Catalogue, Kind};
use fenlo_core::plan::{DripRow, Edit, HeadGroup, Lot, Plan, Plants, apply};
use fenlo_core::units::{Flow, Length, UnitSystem};
use fenlo_core::zoning::{Scope, propose};

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

pub fn body(job: &Assessed) -> Result<String, AppError> {
    let cards: Result<String, AppError> = job.plan().groups.iter().map(|g| card(job, g)).collect();
    Ok(Page {
        job: job.open.id,
        total: total(job),
        groups: cards?,
        nozzles: choices::nozzles(job.plan().catalogue(), "spray-12"),
    }
    .render()?)
}

fn total(job: &Assessed) -> String {
    let plan = job.plan();
    let heads: u32 = plan.groups.iter().map(HeadGroup::count).sum();
    let flow: Flow = plan.groups.iter().map(|g| nominal(plan, g)).sum();
    format!(
        "<b>{heads}</b> heads or rows, <b>{}</b> at nominal pressure, on <b>{}</b> valves",
        flow.show(plan.units),
        plan.valves.len()
    )
}

fn nominal(plan: &Plan, group: &HeadGroup) -> Flow {
    let emitters = f64::from(group.row.map_or(1, |r| r.emitters));
    let nozzle = plan.catalogue().nozzle(&group.nozzle);
    nozzle.map_or(Flow::ZERO, |n| {
        group.heads().map(|h| n.flow_for_arc(h.1)).sum::<Flow>() * emitters
    })
}

fn says(job: &Assessed, group: &HeadGroup) -> String {
    let plan = job.plan();
    let u = plan.units;
    let mut valves: Vec<String> = Vec::new();
    for valve in plan.valves.iter().filter(|v| group.is_on(&v.id)) {
        let n = plan.valve_number(&valve.id);
        let low = job
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
            job.open.id,
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
            job.open.id
        )
    } else {
        String::new()
    };
    format!(
        "{} heads{where_to}, {} · {}",
        group.count(),
        nominal(job.plan(), group).show(u),
        valves.join(" · ")
    )
}

fn card(job: &Assessed, group: &HeadGroup) -> Result<String, AppError> {
    let u = job.plan().units;
    let nozzle = job.plan().catalogue().nozzle(&group.nozzle);
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
        job: job.open.id,
        id: &group.id,
        form: group.id.clone(),
        name: &group.name,
        says: says(job, group),
        drawn: group.is_drawn(),
        nozzles: choices::nozzles(job.plan().catalogue(), &group.nozzle),
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
    whole(app.job(job).await?, Here::at(Screen::Heads, None)).await
}

/// Adds what is wanted to get loose heads onto valves: on the valve that its group is on already,
/// else by a proposal.
pub fn with_valves(plan: &Plan, edit: Edit, design: &[(String, Option<Flow>)]) -> Edit {
    let catalogue = plan.catalogue();
    let Ok((next, _)) = apply(plan, &edit, catalogue) else {
        return edit;
    };
    let mut edits = vec![edit];
    let mut plan = next;
    let mut add = |plan: &mut Plan, edit: Edit| {
        if let Ok((next, _)) = apply(plan, &edit, catalogue) {
            *plan = next;
            edits.push(edit);
        }
    };
    for group in plan.groups.clone() {
        let loose = group.heads_on(None);
        let home = group.lots.iter().rev().find_map(|l| l.valve.clone());
        if let (false, Some(home)) = (loose.is_empty(), home) {
            add(
                &mut plan,
                Edit::AssignHeads {
                    heads: loose,
                    valve: Some(home),
                },
            );
        }
    }
    if let Some(edit) = propose(&plan, design, Scope::Unassigned, catalogue).edit {
        add(&mut plan, edit);
    }
    if edits.len() == 1 {
        edits.remove(0)
    } else {
        Edit::Batch { edits }
    }
}

/// A new group with what is usual, to be changed in place.
fn usual(plan: &Plan, f: &mut Fields) -> HeadGroup {
    let catalogue = plan.catalogue();
    let nozzle = catalogue.nozzle(f.get("nozzle"));
    let kind = nozzle.map(|n| n.kind);
    let metric = plan.units == UnitSystem::Metric;
    let rows = kind.is_some_and(is_rows);
    let drip = kind.is_some_and(Kind::is_drip);
    let count = f.count("count");
    if count == 0 {
        f.fault("count", "say how many: 1 or more");
    }
    let fixed = nozzle.is_some_and(|n| n.arc_rule == ArcRule::Fixed);
    let arc = if fixed {
        360
    } else {
        f.get("arc").parse().unwrap_or(180)
    };
    let pipe = match (metric, drip) {
        (true, _) => "pe100-sdr11 25mm",
        (false, true) => "drip-poly 3/4in",
        (false, false) => "class-200 1in",
    };
    let round = |ft: f64| {
        if metric {
            Length::from_m((Length::from_ft(ft).m() * 2.0).round() / 2.0)
        } else {
            Length::from_ft(ft.round())
        }
    };
    let spacing = if rows {
        Length::from_in(18.0)
    } else {
        nozzle
            .and_then(|n| n.radius)
            .map_or_else(|| round(3.0), |r| round(r.ft()))
    };
    HeadGroup {
        plants: if drip { Plants::Bed } else { Plants::Lawn },
        lots: vec![Lot {
            arc,
            count,
            valve: None,
        }],
        spacing,
        pipe: pipe.parse().expect("a pipe of the catalogue"),
        distance: round(20.0),
        row: rows.then(|| DripRow {
            emitters: 20,
            emitter_spacing: Length::from_in(12.0),
        }),
        ..HeadGroup::new(&plan.fresh_id('g'), f.get("name"), f.get("nozzle"))
    }
}

pub async fn add(
    State(app): State<App>,
    Path(job): Path<i64>,
    Form(pairs): Form<Pairs>,
) -> Result<Response, AppError> {
    let known = app.job(job).await?;
    let mut f = Fields::new(pairs, known.plan().units);
    let group = usual(known.plan(), &mut f);
    let fields = ["name", "nozzle", "count", "arc"];
    if !f.errors.is_empty() {
        return Ok(refuse("new", &fields, &f.errors));
    }
    let base = base_of(&f, &known);
    let edit = with_valves(
        known.plan(),
        Edit::PutGroup { group, at: None },
        &known.assessment.design_flows(),
    );
    match app.edit(job, base, edit).await {
        Ok(known) => again(known, Here::at(Screen::Heads, None)).await,
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
        kept.lots.iter_mut().for_each(|l| l.arc = 360);
    }
    let row = rows.then(|| {
        if was.row.is_none() {
            return DripRow {
                emitters: 20,
                emitter_spacing: Length::from_in(12.0),
            };
        }
        DripRow {
            emitters: f.count("row_emitters"),
            emitter_spacing: f.length("emitter_spacing"),
        }
    });
    HeadGroup {
        drawn: Vec::new(),
        lots: kept.with_counts(&wanted),
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
        .plan()
        .group(&group)
        .ok_or_else(|| AppError::Conflict("this area was removed".into()))?
        .clone();
    let mut f = Fields::new(pairs, known.plan().units);
    let now = read(known.plan().catalogue(), &mut f, &was);
    if !f.errors.is_empty() {
        return Ok(refuse(&group, &FIELDS, &f.errors));
    }
    let base = base_of(&f, &known);
    // Another family of nozzle has other fields: the card is drawn anew.
    let rule = |g: &HeadGroup| {
        known
            .plan()
            .catalogue()
            .nozzle(&g.nozzle)
            .map(|n| (n.arc_rule, is_rows(n.kind)))
    };
    let new_card = rule(&was) != rule(&now);
    let edit = with_valves(
        known.plan(),
        Edit::PutGroup { group: now, at: None },
        &known.assessment.design_flows(),
    );
    match app.edit(job, base, edit).await {
        Ok(known) => {
            let mut out = Fragments::of(&known, &Here::at(Screen::Heads, None))?;
            out.put("h-total", &total(&known));
            for other in &known.plan().groups {
                out.put(&format!("group-says-{}", other.id), &says(&known, other));
            }
            if let (true, Some(now)) = (new_card, known.plan().group(&group)) {
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
    let plan = known.plan();
    let base = base_of(&Fields::new(pairs, UnitSystem::Us), &known);
    // Valves that watered nothing else go with it.
    let mut edits = vec![Edit::RemoveGroup { id: group.clone() }];
    let empty = plan.valves.iter().filter(|v| {
        let here = |g: &&HeadGroup| g.is_on(&v.id);
        let mut on = plan.groups.iter().filter(here);
        on.next().is_some_and(|g| g.id == group) && on.next().is_none()
    });
    edits.extend(empty.map(|v| Edit::RemoveValve { id: v.id.clone() }));
    again(
        app.edit(job, base, Edit::Batch { edits }).await?,
        Here::at(Screen::Heads, None),
    )
    .await
}
