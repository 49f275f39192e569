//! Kinds of head side by side, as they are shown.

use super::money::{Money, gallons, said, sum};
use super::totals::{Total, totals};
use crate::assessed::Assessed;
use crate::choices::word;
use crate::error::{AppError, sentence};
use crate::runs::Run;
use crate::screens::ground::water::{percent, pill};
use askama::Template;
use fenlo_core::catalogue::Kind;
use fenlo_core::coverage::verdict;
use fenlo_core::job::Job;
use fenlo_core::layout::{Alternative, YEARS, advise, measure};
use fenlo_core::planning::cheapest;
use fenlo_core::pricing::{FirstCost, Offered, Saving, planned_kind, savings};
use fenlo_core::units::Surface;
use fenlo_drawing::layout_picture;
use fenlo_words::Working;

#[derive(Template)]
#[template(path = "layout.html")]
struct Page {
    job: i64,
    areas: Vec<(String, String, bool)>,
    state: String,
}

#[derive(Template)]
#[template(path = "parts/layout_state.html")]
struct StatePart {
    job: i64,
    /// While it runs.
    bar: Option<String>,
    stopped: bool,
    stale: bool,
    blocks: Vec<Block>,
    totals: Vec<Total>,
}

/// How far it is; asks again by itself.
#[derive(Template)]
#[template(path = "parts/layout_bar.html")]
struct Bar {
    job: i64,
    area: String,
    have: usize,
    done: usize,
    of: usize,
    stopped: bool,
}

#[derive(Template)]
#[template(path = "parts/layout_ways.html")]
struct Ways {
    job: i64,
    blocks: Vec<Block>,
}

/// One area with its ways.
struct Block {
    id: String,
    name: String,
    says: String,
    /// What its kinds are held against.
    against: String,
    cards: Vec<Card>,
}

struct Card {
    kind: String,
    label: String,
    suits: bool,
    fault: String,
    picture: String,
    heads: String,
    flow: String,
    valves: String,
    du: String,
    expected: String,
    rate: String,
    du_verdict: &'static str,
    off: String,
    dry: String,
    dry_bad: bool,
    first: String,
    first_how: Option<Working>,
    unpriced: usize,
    water: String,
    years: String,
    /// What it saves; empty: nothing to hold it against.
    saves: String,
    /// The kind that it is held against.
    against: String,
    minutes: String,
    minutes_how: Option<Working>,
    year: String,
    pressure: String,
    short: bool,
    how: String,
    how_working: Option<Working>,
    unreached: Vec<String>,
    drip: bool,
}

pub fn body(known: &Assessed, pick: Option<&str>) -> Result<String, AppError> {
    let area = pick.unwrap_or("");
    let plan = known.job();
    let areas: Vec<(String, String, bool)> = plan
        .site
        .areas()
        .map(|(t, a)| {
            (
                t.id.clone(),
                format!("{} ({})", t.title(), Surface::from_m2(a.shape.area_m2()).show(plan.units)),
                t.id == area,
            )
        })
        .collect();
    Ok(Page { job: known.open.id, areas, state: state(known, area, None, None)? }.render()?)
}

pub fn state(
    known: &Assessed,
    area: &str,
    run: Option<&Run>,
    money: Option<&Money>,
) -> Result<String, AppError> {
    let plan = known.job();
    let running = run.filter(|r| r.found().is_none());
    let found = run.map(Run::so_far);
    let all = found.as_deref();
    let have = all.map_or(0, Vec::len);
    Ok(StatePart {
        job: known.open.id,
        bar: running.map(|r| bar(known, area, r, have)).transpose()?,
        stopped: run.is_some_and(|r| r.progress.stopped()),
        stale: run.is_some_and(|r| r.is_stale(known)),
        totals: match all {
            Some(all) if running.is_none() => totals(plan, all, money),
            _ => Vec::new(),
        },
        blocks: all.map_or_else(Vec::new, |all| blocks(plan, all, money)),
    }
    .render()?)
}

fn bar(known: &Assessed, area: &str, run: &Run, have: usize) -> Result<String, AppError> {
    let (done, of) = run.progress.now();
    Ok(Bar {
        job: known.open.id,
        area: area.to_owned(),
        have,
        done: done.min(of),
        of,
        stopped: run.progress.stopped(),
    }
    .render()?)
}

/// How far a run is, with the ways of areas that have more than the page shows.
pub fn news(known: &Assessed, area: &str, run: &Run, have: usize) -> Result<String, AppError> {
    let news = run.news(have);
    let mut out = bar(known, area, run, news.count)?;
    for (first, ways) in news.areas {
        let job = known.open.id;
        let blocks = blocks(known.job(), &ways, None);
        let Some(id) = blocks.first().map(|b| b.id.clone()) else {
            continue;
        };
        let html = Ways { job, blocks }.render()?;
        // An area's first ways come behind those of the others, more of them take their place.
        let place = match first {
            true => "beforeend:#layout-ways".to_owned(),
            false => format!("outerHTML:#ways-{id}"),
        };
        out += &format!(r#"<div hx-swap-oob="{place}">{html}</div>"#);
    }
    Ok(out)
}

fn blocks(plan: &Job, all: &[Alternative], money: Option<&Money>) -> Vec<Block> {
    let mut out: Vec<Block> = Vec::new();
    for (place, way) in all.iter().enumerate() {
        if out.last().is_none_or(|b| b.id != way.area) {
            let Some(thing) = plan.site.object(&way.area) else {
                continue;
            };
            let best = best_of(plan, all, &way.area).map(|kind| {
                format!("{} costs least over {YEARS} years by its layout. ", fenlo_words::kind(kind))
            });
            let usual = advise(plan, &way.area).map(|a| {
                format!(
                    "Usual here: {} ({}).",
                    fenlo_words::kind(a.kind).to_lowercase(),
                    fenlo_words::advice(&a, plan.units)
                )
            });
            let says = best.unwrap_or_default() + &usual.unwrap_or_default();
            out.push(Block {
                id: way.area.clone(),
                name: thing.title().to_owned(),
                says,
                against: String::new(),
                cards: Vec::new(),
            });
        }
        if let Some(block) = out.last_mut() {
            let suits = best_of(plan, all, &way.area) == Some(way.kind);
            block.cards.push(card(plan, way, suits, money.and_then(|m| m.of(plan, place, way))));
        }
    }
    for block in &mut out {
        let ways = all.iter().enumerate().filter(|(_, way)| way.area == block.id);
        let offered: Vec<Offered> = ways
            .map(|(i, way)| Offered {
                kind: way.kind,
                water: way.year,
                cost: money.and_then(|m| m.of(plan, i, way)),
            })
            .collect();
        let saves = savings(planned_kind(plan, &block.id), &offered);
        block.against = held_against(&saves);
        for (card, saves) in block.cards.iter_mut().zip(&saves) {
            card.saves = said(plan, saves.as_ref());
            card.against = saves.as_ref().map_or("", |s| fenlo_words::kind(s.against)).to_lowercase();
        }
    }
    out
}

/// "The others are held against spray, the cheapest to put in."
fn held_against(saves: &[Option<Saving>]) -> String {
    let Some(one) = saves.iter().flatten().next() else {
        return String::new();
    };
    format!(
        "Others are compared with {} ({}).",
        fenlo_words::kind(one.against).to_lowercase(),
        fenlo_words::against(one.because)
    )
}

/// The kind that comes cheapest on an area, of those that were compared there so far.
fn best_of(plan: &Job, all: &[Alternative], area: &str) -> Option<Kind> {
    cheapest(plan, area, all.iter().filter(|w| w.area == area))
}

fn card(plan: &Job, way: &Alternative, suits: bool, cost: Option<FirstCost>) -> Card {
    let u = plan.units;
    let dash = || "–".to_owned();
    let proposal = way.heads.as_ref().ok();
    let score = proposal.map(|p| p.score);
    let even = proposal.and_then(|p| p.expected);
    let wanted = way.pressure.0.show_round(u);
    let short = way.pressure.1.is_some_and(|left| left < way.pressure.0);
    let coverage = proposal.and_then(|p| measure(plan, &way.area, &p.heads)).map(|m| m.1);
    Card {
        kind: word(&way.kind),
        label: fenlo_words::kind(way.kind).to_owned(),
        suits,
        fault: match &way.heads {
            Err(fault) if way.drip.is_none() => sentence(&fenlo_words::layout_fault(fault, u)),
            _ => match &way.drip {
                Some(Err(fault)) => sentence(&fenlo_words::drip_fault(fault, u)),
                _ => String::new(),
            },
        },
        picture: proposal
            .zip(coverage.as_ref())
            .map_or(String::new(), |(p, cover)| layout_picture(plan, &way.area, p, cover)),
        heads: match (score, &way.drip) {
            (Some(s), _) => s.heads.to_string(),
            (None, Some(Ok(d))) => d.tubing.show(u),
            _ => dash(),
        },
        flow: way.flow.map_or_else(dash, |f| f.show(u)),
        valves: way.valves.map_or_else(dash, |v| v.to_string()),
        du: score.map_or_else(dash, |s| format!("{:.2}", s.du)),
        expected: even.map_or_else(dash, |e| format!("{:.2}", e.du)),
        du_verdict: score.zip(even).map_or("", |(s, e)| pill(verdict(s.du, &e, way.kind))),
        rate: score.map_or_else(dash, |s| s.rate.show(u)),
        off: score.map_or_else(dash, |s| percent(s.overspray)),
        dry: score.map_or_else(dash, |s| percent(s.on_dry)),
        dry_bad: score.is_some_and(|s| s.on_dry > 0.03),
        first: cost.as_ref().map_or_else(dash, |c| sum(plan, c.first())),
        first_how: cost.as_ref().map(|c| fenlo_words::first_cost(c, &plan.rules.buying.currency)),
        unpriced: cost.as_ref().map_or(0, |c| c.unpriced.len()),
        water: cost.as_ref().and_then(|c| c.water).map_or_else(|| "no water rate".into(), |w| sum(plan, w)),
        years: cost.as_ref().and_then(FirstCost::over_years).map_or_else(dash, |y| sum(plan, y)),
        saves: String::new(),
        against: String::new(),
        minutes: way.minutes.as_ref().map_or_else(dash, |m| format!("{:.0} min", m.minutes.minutes())),
        minutes_how: way.minutes.as_ref().map(|m| fenlo_words::alternative_minutes(m, u)),
        year: way.year.map_or_else(dash, |y| gallons(y, u)),
        pressure: way.pressure.1.map_or_else(
            || format!("needs {wanted}"),
            |left| format!("needs {wanted}, has {}", left.show_round(u)),
        ),
        short,
        how: proposal.map_or(String::new(), |p| fenlo_words::how_laid_out(p, u)),
        how_working: way
            .drip
            .as_ref()
            .and_then(|d| d.as_ref().ok())
            .zip(plan.site.area(&way.area))
            .map(|(d, a)| fenlo_words::drip_of_area(d, Surface::from_m2(a.shape.area_m2()), u)),
        unreached: proposal.map_or_else(Vec::new, |p| {
            p.unreached.iter().take(3).map(|x| fenlo_words::unreached(x, u)).collect()
        }),
        drip: way.drip.is_some(),
    }
}

/// What is said once heads are laid out.
pub fn laid_out(job: i64) -> String {
    format!(
        "<p class=\"pill ok\">✓ Heads laid out. <a href=\"/jobs/{job}/ground\">View on site plan</a> or \
            Undo.</p>"
    )
}
