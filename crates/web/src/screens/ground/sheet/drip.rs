//! The drip of an area: what is laid, its figures, and the form that lays it.

use super::figures::Figure;
use crate::assessed::Assessed;
use crate::choices::{self, Choice, Group};
use fenlo_core::catalogue::{Kind, Nozzle};
use fenlo_core::drip::{
    Laid, choose, estimate, lay, longest_row, most_of_row, row_ask, tube_of, usual_kind, ways_to_join,
};
use fenlo_core::job::Job;
use fenlo_core::plan::{DripLaying, HeadGroup, RowEnds, RowLaying};
use fenlo_core::site::{Area, AreaKind};
use fenlo_core::units::{Flow, Length, Minutes, Rate, Surface, UnitSystem, Volume};
use fenlo_words::{self as words, Working};

/// Lines of the cut list that are shown.
const MOST_CUT: usize = 40;

/// All that the sheet says of an area's drip.
pub struct DripSheet {
    /// Laid already.
    pub laid: bool,
    /// Opened without being asked: laid, or the ground wants drip.
    pub open: bool,
    pub plants: bool,
    pub tape: bool,
    pub figures: Vec<Figure>,
    pub fault: String,
    pub nozzles: Vec<Group>,
    pub emitter_spacing: String,
    pub spacing: String,
    pub edge: String,
    pub ends: Vec<Choice>,
    pub heading: String,
    pub depth: String,
    /// The longest that a row may be where a hand has said so, and what its tube feeds, as a hint.
    pub longest: String,
    pub most: String,
    /// The length that rows are cut to; empty where they run from edge to edge.
    pub cut_at: String,
    pub joined: Vec<Choice>,
    pub each: String,
    pub basin: String,
    /// What the ground asks for, as hints: emitter spacing, row spacing, depth.
    pub hints: [String; 3],
    pub cut: Vec<(usize, String, String, u32)>,
    pub cut_more: usize,
    /// Ways to join: name, tubing, fittings, cost or why not.
    pub ways: Vec<(String, String, String, String)>,
    pub parts: usize,
    /// Plants with what each gets: name, how many, emitters, flow, in an hour.
    pub each_plant: Vec<(String, usize, usize, String, String)>,
}

const ENDS: [(&str, &str); 3] = [
    ("headers", "headers at both ends"),
    ("snake", "one line, snaked and looped"),
    ("closed", "header at one end, row ends closed"),
];
const JOINED: [(&str, &str); 7] = [
    ("at-tube", "emitter in the tubing, micro tubing to the plant"),
    ("at-plant", "micro tubing to an emitter at the plant"),
    ("in-tube", "tubing ring with emitters around the plant"),
    ("six-outlets", "manifolds of 6 outlets"),
    ("eight-outlets", "manifolds of 8 outlets"),
    ("fed-ring", "one emitter feeds a ring"),
    ("open-end", "open micro tubing into a basin"),
];

pub fn drip_sheet(known: &Assessed, id: &str, area: &Area) -> DripSheet {
    let job = known.job();
    let u = job.units;
    let group = job.groups.iter().find(|g| g.area.as_deref() == Some(id) && g.drip.is_some());
    let product = group.and_then(|g| job.catalogue().nozzle(&g.nozzle));
    let kind = product.map_or_else(|| usual_kind(job, area), |n| n.kind);
    let choice = choose(job.catalogue(), area, kind, u);
    let parts = group.map(|g| lay(job, g));
    let rows = match group.and_then(|g| g.drip.as_ref()) {
        Some(DripLaying::Rows(rows)) => Some(rows),
        _ => None,
    };
    let plants = match group.and_then(|g| g.drip.as_ref()) {
        Some(DripLaying::Plants(plants)) => Some(plants),
        _ => None,
    };
    let tape = |l: Length| l.show_tape(u);
    let laid: &[Laid] = match &parts {
        Some(Ok(laid)) => laid,
        _ => &[],
    };
    let mut cut = if rows.is_some() { words::cut_list(laid, u) } else { Vec::new() };
    let cut_more = cut.len().saturating_sub(MOST_CUT);
    cut.truncate(MOST_CUT);
    let wants = matches!(
        area.kind,
        AreaKind::Bed | AreaKind::Hedge | AreaKind::Vegetables | AreaKind::Containers | AreaKind::Trees
    );
    let most = rows.zip(product).map(|(r, n)| most_of_row(job, area, n, r));
    let said = rows.and_then(|r| r.longest);
    let by_hand = said.filter(|l| most.is_none_or(|most| (l.m() - most.m()).abs() > 0.005));
    let whole = said.is_none_or(|most| laid.len() < 2 || laid.iter().all(|l| l.longest_row() > most));
    DripSheet {
        laid: group.is_some(),
        open: group.is_some() || wants,
        plants: kind == Kind::Emitter,
        tape: kind == Kind::Tape,
        figures: group.map_or_else(Vec::new, |g| figures(known, g, product, laid)),
        fault: match &parts {
            Some(Err(fault)) => words::drip_fault(fault, u),
            _ => String::new(),
        },
        nozzles: products(job, kind, group.map_or("", |g| &g.nozzle)),
        emitter_spacing: rows.map_or_else(String::new, |r| tape(r.emitter_spacing)),
        spacing: rows.and(group).map_or_else(String::new, |g| tape(g.spacing)),
        edge: rows.map_or_else(String::new, |r| tape(r.edge)),
        ends: choices::of(&ENDS, &rows.map_or_else(String::new, |r| choices::word(&r.ends))),
        heading: rows.and_then(|r| r.heading).map_or_else(String::new, |h| format!("{h:.0}")),
        depth: rows.map_or_else(String::new, |r| tape(r.depth)),
        longest: by_hand.map_or_else(String::new, |l| l.show(u)),
        most: most.map_or_else(|| "tubing limit".to_owned(), |l| l.show(u)),
        cut_at: said.filter(|_| !whole).map_or_else(String::new, |l| l.show(u)),
        joined: choices::of(&JOINED, &plants.map_or_else(String::new, |p| choices::word(&p.joined))),
        each: plants.and_then(|p| p.each).map_or_else(String::new, |n| n.to_string()),
        basin: plants.and_then(|p| p.basin).map_or_else(String::new, |v| v.field(u)),
        hints: choice
            .map_or_else(Default::default, |c| [tape(c.emitter_spacing), tape(c.row_spacing), tape(c.depth)]),
        cut,
        cut_more,
        ways: rows.and(group).map_or_else(Vec::new, |g| ways(job, g)),
        parts: laid.len(),
        each_plant: each_plant(job, laid),
    }
}

/// Products of a kind, the one in use chosen.
fn products(job: &Job, kind: Kind, chosen: &str) -> Vec<Group> {
    let all = choices::nozzles(job.catalogue(), chosen, job.units);
    let of_kind = |o: &Choice| job.catalogue().nozzle(&o.value).is_some_and(|n| n.kind == kind);
    all.into_iter().filter(|g| g.options.iter().any(of_kind)).collect()
}

fn figures(known: &Assessed, group: &HeadGroup, product: Option<&Nozzle>, laid: &[Laid]) -> Vec<Figure> {
    let (job, u) = (known.job(), known.job().units);
    let mut all = Vec::new();
    let Some(each) = product.map(|n| n.flow_for_arc(360)).filter(|_| !laid.is_empty()) else {
        return all;
    };
    let mut figure =
        |label, value: String, working: Option<Working>| all.push(Figure { label, value, working });
    let emitters: usize = laid.iter().map(|l| l.emitters.len()).sum();
    let flow: Flow = laid.iter().map(Laid::flow).sum();
    let m2: f64 = laid.iter().map(|l| l.ground_m2).sum();
    if let Some(DripLaying::Rows(rows)) = &group.drip {
        let flat = estimate(Surface::from_m2(m2), group.spacing, rows.emitter_spacing, each);
        let working = words::tubing_working(laid, &flat, group.spacing, u);
        figure("Tubing", working.result.clone(), Some(working));
        figure("Emitters", emitters.to_string(), None);
        let working = words::drip_flow_working(emitters, each, flow, u);
        figure("Flow", working.result.clone(), Some(working));
        let apart = laid.iter().map(|l| l.row_spacing).reduce(Length::max).unwrap_or_default();
        if apart > Length::ZERO {
            let (rate, working) = words::drip_rate_working(each, apart, rows.emitter_spacing, u);
            figure("Rate", rate.show(u), Some(working));
            let (time, working) = dose(rate, u);
            figure("Run time for 1/2 in", time, Some(working));
        }
        let (time, working) = words::wetted_working(group.soil, each, apart.max(rows.emitter_spacing), u);
        figure("Time until wetted spots meet", time, Some(working));
        if let Some((value, working)) = longest(job, product, rows, laid, u) {
            figure("Longest row vs. limit", value, Some(working));
        }
    } else {
        let plants: usize = laid.iter().map(|l| l.plants.len()).sum();
        figure("Plants", plants.to_string(), None);
        figure("Emitters", emitters.to_string(), None);
        let line = Length::from_m(laid.iter().map(|l| l.plain_tube().m()).sum());
        figure("Line", line.show(u), Some(words::line_working(flow, line, u)));
        let micro: Vec<Length> = laid.iter().flat_map(|l| l.micro_tubes.iter().copied()).collect();
        if !micro.is_empty() {
            let sum = Length::from_m(micro.iter().map(|l| l.m()).sum());
            figure("Micro tubing", format!("{} lines, {} total", micro.len(), sum.show(u)), None);
        }
        figure("Flow", words::fine_flow(flow, u), None);
    }
    if let Some(DripLaying::Rows(rows)) = &group.drip
        && rows.ends == RowEnds::Closed
        && let Some((value, working)) = at_once(known, laid, u)
    {
        figure("Rows at a time", value, Some(working));
    }
    solved(known, group, &mut figure);
    all
}

/// How many rows with shut-offs the water feeds at a time.
fn at_once(known: &Assessed, laid: &[Laid], u: UnitSystem) -> Option<(String, Working)> {
    let available = known.assessment.flow_for_drip(known.job())?;
    let rows: usize = laid.iter().map(|l| l.rows.len()).sum();
    let flow: Flow = laid.iter().map(Laid::flow).sum();
    let each = flow * (1.0 / rows.max(1) as f64);
    let turns = words::rows_at_once(rows, each, available);
    let length: f64 = laid.iter().map(|l| l.dripline().m()).sum();
    let working = words::at_once_working(available, each, flow * (30.48 / length.max(1e-9)), turns, u);
    Some((working.result.clone(), working))
}

/// What the zones say of it.
fn solved(
    known: &Assessed,
    group: &HeadGroup,
    figure: &mut impl FnMut(&'static str, String, Option<Working>),
) {
    let u = known.job().units;
    for (index, head) in group.drawn.iter().enumerate() {
        let zone = head.valve.as_deref().and_then(|v| known.assessment.zone(v));
        let Some(zone) = zone.and_then(|z| z.zone.as_ref().ok()) else {
            continue;
        };
        let Some(at) =
            zone.heads.iter().position(|h| h.head.group == group.id && h.head.index == index as u32)
        else {
            continue;
        };
        let found = &zone.heads[at];
        let working = words::head_workings(zone, at, known.job()).into_iter().next().map(|w| w.1);
        if let Some(DripLaying::Plants(plants)) = &group.drip
            && let (Some(basin), Some(inputs)) = (plants.basin, known.assessment.zone(&zone.valve))
        {
            let of = inputs.inputs.as_ref().and_then(|i| i.drawn.iter().find(|d| d.head == found.head));
            let plants = of.and_then(|d| d.grid.as_ref()).map_or(1, |g| g.laid.plants.len().max(1));
            let working = words::basin_working(basin, found.flow, plants, u);
            figure("Basin fill time", working.result.clone(), Some(working));
        }
        let value = format!("{} to {}", found.nozzle.number(u), found.highest.show(u));
        figure("Pressure at the emitters", value, working);
        if let Some(f) = zone.flushing.iter().find(|f| f.head == found.head) {
            figure("Flushing velocity", f.slowest.show(u), Some(words::flush_working(f, u)));
        }
    }
}

/// Running time for half an inch.
fn dose(rate: Rate, u: UnitSystem) -> (String, Working) {
    let depth = Length::from_in(0.5);
    let time = Minutes::from_minutes(depth.mm() / rate.mmph().max(1e-9) * 60.0);
    let working = Working::new("depth ÷ rate", "time = depth ÷ rate")
        .with("depth", depth.show_depth(u))
        .with("rate", rate.show(u))
        .gives(time.show(u));
    (format!("{} for {}", time.show(u), depth.show_depth(u)), working)
}

/// The longest row beside the longest that could be, at the pressure that drip is usually regulated to.
fn longest(
    job: &Job,
    product: Option<&Nozzle>,
    rows: &RowLaying,
    laid: &[Laid],
    u: UnitSystem,
) -> Option<(String, Working)> {
    let nozzle = product?;
    let class = job.catalogue().class(nozzle.kind);
    let tube = job.catalogue().pipe(&tube_of(job.catalogue(), nozzle))?;
    let longest = laid.iter().map(Laid::longest_row).reduce(Length::max)?;
    let ask = row_ask(job.catalogue(), nozzle, class.nominal, rows.emitter_spacing)?;
    let most = longest_row(&ask);
    let working = words::longest_working(&ask, &most, tube, u);
    Some((format!("{} (limit {})", longest.show(u), most.length.show(u)), working))
}

fn ways(job: &Job, group: &HeadGroup) -> Vec<(String, String, String, String)> {
    let u = job.units;
    let row = |(ends, way): (_, Result<fenlo_core::drip::EndsWay, _>)| {
        let name = words::row_ends(ends).to_owned();
        match way {
            Ok(w) => (
                name,
                format!("{} + {}", w.dripline.show(u), w.plain.show(u)),
                w.fittings.all().to_string(),
                w.cost.to_string(),
            ),
            Err(fault) => (name, words::drip_fault(&fault, u), String::new(), String::new()),
        }
    };
    ways_to_join(job, group).into_iter().map(row).collect()
}

/// Plants of one object together, those with other flows apart.
fn each_plant(job: &Job, laid: &[Laid]) -> Vec<(String, usize, usize, String, String)> {
    let u = job.units;
    let mut all: Vec<(String, usize, usize, String, String)> = Vec::new();
    for plant in laid.iter().flat_map(|l| &l.plants) {
        let name = job.site.object(&plant.plant).map_or("", |o| o.title()).to_owned();
        let hour = Volume::from_litres(plant.flow.lpm() * 60.0).show(u);
        let row = (name, 1, plant.emitters.len(), words::emitter_flow(plant.flow, u), hour);
        let known = all.iter().position(|r| r.0 == row.0 && r.2 == row.2 && r.3 == row.3);
        match known {
            Some(place) => all[place].1 += 1,
            None if all.len() < MOST_CUT => all.push(row),
            None => {}
        }
    }
    all
}
