//! Pipe, trenches and wire as text and as JSON.

use fenlo_core::assess::{Assessment, PipesReport, pipes_report};
use fenlo_core::catalogue::Pipe;
use fenlo_core::job::Job;
use fenlo_core::units::Length;
use fenlo_words as words;
use serde_json::{Value, json};
use std::fmt::Write;

/// Drawn pipe: trench, cost, wire; nothing where none is drawn.
pub fn pipes_text(job: &Job, a: &Assessment) -> String {
    let mut out = String::new();
    let Some(report) = pipes_report(job, a) else {
        return out;
    };
    line!(out);
    line!(out, "PIPE  {}", words::pipes_said(&report, job));
    for (size, length) in by_size(job, &report) {
        line!(out, "  {size:<28} {:>10}", length.show(job.units));
    }
    if let Some(wire) = &report.wire {
        line!(out, "WIRE  {}", words::wire_said(wire, job));
    }
    out
}

/// Length of pipe by size, in the order of the catalogue.
fn by_size(job: &Job, report: &PipesReport) -> Vec<(String, Length)> {
    let of = |pipe: &Pipe| {
        let legs = job.piping.legs.iter().zip(&report.pipes);
        let here = legs.filter(|(l, _)| l.pipe == pipe.id()).map(|(_, r)| r.length.m());
        Length::from_m(here.sum())
    };
    let all = job.catalogue().pipes.iter().map(|p| (p.title(), of(p)));
    all.filter(|(_, length)| length.m() > 0.0).collect()
}

/// Puts `pipes`, `trenches`, `routes` and `wire` beside what else is told of a job.
pub fn put_pipes(into: &mut Value, job: &Job, report: &PipesReport) {
    let mut pipes: Vec<Value> = Vec::new();
    for (leg, r) in job.piping.legs.iter().zip(&report.pipes) {
        pipes.push(json!({
            "id": r.id,
            "kind": if leg.is_main() { "main" } else { "lateral" },
            "valve": leg.valve(),
            "length_m": r.length.m(),
            "inside_mm": r.inside.mm(),
            "flow_lpm": r.flow.lpm(),
            "velocity_mps": r.velocity.mps(),
            "trench": r.trench,
            "sleeve": leg.sleeve,
        }));
    }
    for (i, c) in report.earthwork.crossings.iter().enumerate() {
        let leg = job.piping.leg(&c.leg);
        let sleeve = leg.and_then(|l| job.catalogue().pipe(l.sleeve.as_ref()?));
        if let Some(sleeve) = sleeve {
            pipes.push(json!({
                "id": format!("sleeve-{}", i + 1),
                "kind": "sleeve",
                "valve": leg.and_then(|l| l.valve()),
                "length_m": c.from.distance(c.to),
                "inside_mm": sleeve.inside.mm(),
                "flow_lpm": 0.0,
                "velocity_mps": 0.0,
                "trench": Value::Null,
                "sleeve": Value::Null,
            }));
        }
    }
    let trenches: Vec<Value> = report
        .earthwork
        .trenches
        .iter()
        .map(|t| json!({ "id": t.id, "length_m": t.length.m(), "depth_m": t.depth.m(), "pipes": t.legs }))
        .collect();
    let wire = report.wire.as_ref().map(|w| {
        json!({
            "valves": w.valves, "spares": w.spares, "later": w.later, "strands_m": w.strands.m(), "route_m": w.route.m(),
            "furthest_m": w.furthest.m(), "gauge_awg": w.gauge, "drop_v": w.drop_volts,
        })
    });
    into["pipes"] = json!(pipes);
    into["trenches"] = json!(trenches);
    into["routes"] = json!({
        "trench_m": report.earthwork.length().m(),
        "trench_m_bound": report.least_trench.m(),
        "cost": report.costs.total(),
        "cost_bound": report.least_cost,
    });
    into["wire"] = json!(wire);
}
