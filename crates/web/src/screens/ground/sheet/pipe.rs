//! A pipe or a joint that is picked, and the pipe of the whole job.

use super::figures::Figure;
use crate::assessed::Assessed;
use crate::choices::{self, Choice, word};
use askama::Template;
use fenlo_core::assess::{PipesReport, pipes_report};
use fenlo_core::earthwork::depth_of;
use fenlo_core::job::Job;
use fenlo_core::plan::{Joint, LegOf, PipeLeg};
use fenlo_core::terms::{Lang, term};
use fenlo_core::units::{Flow, Length};
use fenlo_words::{self as words, Working};

#[derive(Template)]
#[template(path = "parts/sheet_pipe.html")]
pub struct PipeSheet {
    job: i64,
    id: String,
    title: String,
    figures: Vec<Figure>,
    joint: bool,
    kinds: Vec<Choice>,
    pipes: Vec<Choice>,
    depth: String,
    usual_depth: String,
    pinned: bool,
    kept: bool,
    valve: String,
}

fn figure(label: &'static str, value: String, working: Option<Working>) -> Figure {
    Figure { label, value, working }
}

pub fn joint_sheet(known: &Assessed, joint: &Joint) -> PipeSheet {
    let kind = word(&joint.kind);
    PipeSheet {
        job: known.open.id,
        id: joint.id.clone(),
        title: joint.kind.name(Lang::En).to_owned(),
        figures: Vec::new(),
        joint: true,
        kinds: choices::terms("joint", &kind),
        pipes: Vec::new(),
        depth: String::new(),
        usual_depth: String::new(),
        pinned: false,
        kept: false,
        valve: String::new(),
    }
}

pub fn leg_sheet(known: &Assessed, leg: &PipeLeg) -> PipeSheet {
    let job = known.job();
    let u = job.units;
    let report = pipes_report(job, &known.assessment);
    let mut figures = Vec::new();
    if let Some(report) = &report
        && let Some(pipe) = report.pipes.iter().find(|p| p.id == leg.id)
    {
        figures.push(figure("Length", pipe.length.show(u), None));
        let most = pipe
            .at_valve
            .as_deref()
            .map_or_else(String::new, |v| format!(" for valve {}", job.valve_number(v)));
        if pipe.flow > Flow::ZERO {
            figures.push(figure("Flow", format!("{}{most}", pipe.flow.show(u)), None));
            let velocity = words::pipe_velocity(pipe.flow, pipe.inside, u);
            figures.push(figure("Velocity", pipe.velocity.show(u), Some(velocity)));
            let c = job.catalogue().pipe(&leg.pipe).map_or(150.0, |p| p.c);
            let loss = words::pipe_loss(job, pipe.flow, pipe.length, pipe.inside, c, pipe.drop);
            figures.push(figure("Pressure loss", pipe.drop.show(u), Some(loss)));
        }
        figures.push(figure("Depth", trench_words(job, report, leg), None));
    }
    PipeSheet {
        job: known.open.id,
        id: leg.id.clone(),
        title: match &leg.of {
            LegOf::Main(_) => term("pipe.main", Lang::En).to_owned(),
            LegOf::Lateral(valve) => format!("Lateral of valve {}", job.valve_number(valve)),
        },
        figures,
        joint: false,
        kinds: Vec::new(),
        pipes: choices::pipes(Some(&leg.pipe), None),
        depth: leg.depth.map_or_else(String::new, |d| words::depth(d, u)),
        usual_depth: words::depth(depth_of(job, &PipeLeg { depth: None, ..leg.clone() }), u),
        pinned: leg.size_pinned,
        kept: leg.kept,
        valve: leg.valve().unwrap_or("").to_owned(),
    }
}

fn trench_words(job: &Job, report: &PipesReport, leg: &PipeLeg) -> String {
    let depth = words::depth(depth_of(job, leg), job.units);
    let own = report.earthwork.trenches.iter().filter(|t| t.legs.contains(&leg.id));
    let others = own.map(|t| t.legs.len() - 1).max().unwrap_or(0);
    match others {
        0 => format!("{depth} deep, own trench"),
        1 => format!("{depth} deep, shared trench with 1 pipe"),
        n => format!("{depth} deep, shared trench with {n} pipes"),
    }
}

/// Pipe of the whole job, for the sheet of nothing picked.
pub fn pipe_figures(known: &Assessed) -> Vec<Figure> {
    let job = known.job();
    let u = job.units;
    let Some(report) = pipes_report(job, &known.assessment) else {
        return Vec::new();
    };
    let costs = &report.costs;
    let money = |sum: f64| fenlo_words::estimate(sum, &job.rules.buying.currency);
    let trench = Working::new(
        "trenches (shared ones counted once) plus crossings",
        "lower bound: 0.824 × shortest straight-line tree of point of connection and heads (Chung and \
            Graham 1985)",
    )
    .with("lower bound", report.least_trench.show_whole(u))
    .with("pavement crossings", report.earthwork.crossings.len().to_string())
    .gives(report.earthwork.length().show_whole(u));
    let cost = Working::new("trench + crossings + pipe + tees + boxes", "company prices, see Details")
        .with("trench", money(costs.trench))
        .with("crossings", money(costs.crossings))
        .with("pipe", money(costs.pipe))
        .with("tees", money(costs.tees))
        .with("boxes", money(costs.boxes))
        .with("lower bound", money(report.least_cost))
        .gives(money(costs.total()));
    let pipe: f64 = report.pipes.iter().map(|p| p.length.m()).sum();
    let mut by_size = Working::new("sum of drawn pipe, by size", "the plan");
    for size in &job.catalogue().pipes {
        let legs = job.piping.legs.iter().zip(&report.pipes);
        let here: f64 = legs.filter(|(l, _)| l.pipe == size.id()).map(|(_, p)| p.length.m()).sum();
        if here > 0.0 {
            by_size = by_size.with(size.title(), Length::from_m(here).show_whole(u));
        }
    }
    let pipe = Length::from_m(pipe).show_whole(u);
    let mut figures = vec![
        figure("Trench", report.earthwork.length().show_whole(u), Some(trench)),
        figure("Pipe", pipe.clone(), Some(by_size.gives(pipe))),
        figure("Installed pipe cost, about", money(costs.total()), Some(cost)),
    ];
    if let Some(wire) = &report.wire {
        let gauge = wire.gauge.map_or_else(|| "too far for 12 AWG".to_owned(), |g| format!("{g} AWG"));
        let working = Working::new(
            "2 · Ω/ft · run · A",
            "1 common, 1 per valve, spares per company standard; voltage at the solenoid is the limit",
        )
        .with("wires", (wire.valves + 1 + wire.spares).to_string())
        .with("total wire with slack", wire.strands.show_whole(u))
        .with("run to the farthest valve", wire.furthest.show_whole(u))
        .gives(format!("{:.1} V lost", wire.drop_volts));
        figures.push(figure("Wire", format!("{}, {gauge}", wire.strands.show_whole(u)), Some(working)));
    }
    figures
}
