//! What the commands print.

use fenlo_core::assess::Assessment;
use fenlo_core::findings::{Finding, Remedy, Severity};
use fenlo_core::plan::{Plan, School};
use fenlo_core::quick::Answer;
use fenlo_core::regulation::{Comparison, RegulationOption};
use fenlo_core::units::UnitSystem;
use fenlo_core::water::SchoolResult;
use fenlo_core::zone::{HeadResult, RegulatorResult, WalkStep, ZoneAssessment};
use serde_json::{Value, json};
use std::fmt::Write;

const DEFER: &str = "Fenlo supports licensed practice and the local code; it does not replace them.";

fn school(school: School) -> &'static str {
    match school {
        School::MeterAndService => "meter and service line",
        School::WorkingPressure => "measured flow at working pressure",
        School::TimedBucket => "timed bucket",
        School::Pump => "pump",
    }
}

fn severity(severity: Severity) -> &'static str {
    match severity {
        Severity::Stop => "STOP",
        Severity::Fix => "FIX",
        Severity::Watch => "WATCH",
    }
}

/// Writing to a String can't fail.
macro_rules! line {
    ($out:expr) => { $out.push('\n') };
    ($out:expr, $($arg:tt)*) => { { let _ = writeln!($out, $($arg)*); } };
}

pub fn text(plan: &Plan, a: &Assessment) -> String {
    let u = plan.units;
    let mut out = String::new();
    line!(out, "{}", plan.name);
    if !plan.place.is_empty() {
        line!(out, "{}", plan.place);
    }
    for s in &a.supplies {
        line!(out);
        line!(out, "WATER  {}", plan.supply(&s.id).map_or("", |p| &p.name));
        if let Ok(curve) = &s.curve {
            line!(out, "  static pressure      {}", curve.static_pressure.show(u));
        }
        for r in &s.design.schools {
            let chosen = if s.design.by == Some(r.school) {
                if s.design.pinned {
                    "  <- pinned"
                } else {
                    "  <- smallest"
                }
            } else {
                ""
            };
            line!(
                out,
                "  {:<34} {:>10}  {}{chosen}",
                school(r.school),
                r.flow.map_or("-".into(), |f| f.show(u)),
                r.says
            );
        }
        line!(
            out,
            "  design flow          {}",
            s.design.flow.map_or("not known yet".into(), |f| f.show(u))
        );
        findings(&mut out, &s.findings);
    }
    line!(out);
    line!(
        out,
        "VALVES  {}, least possible {}{}",
        plan.valves.len(),
        a.bound.valves,
        if a.unassigned > 0 {
            format!(", {} heads on none", a.unassigned)
        } else {
            String::new()
        }
    );
    for (i, (valve, report)) in plan.valves.iter().zip(&a.zones).enumerate() {
        line!(out);
        match &report.zone {
            Ok(z) => {
                line!(out, "{:>3}  {}", i + 1, valve.name);
                zone(&mut out, z, u);
            }
            Err(fault) => line!(out, "{:>3}  {}: {fault}", i + 1, valve.name),
        }
        findings(&mut out, &report.findings);
    }
    line!(out);
    line!(
        out,
        "{} stop, {} fix, {} watch. {DEFER}",
        a.count(Severity::Stop),
        a.count(Severity::Fix),
        a.count(Severity::Watch)
    );
    out
}

fn zone(out: &mut String, z: &ZoneAssessment, u: UnitSystem) {
    let (low, high) = (z.lowest(), z.highest());
    line!(
        out,
        "     {} heads, {}; {} to {} at the nozzles (best {}), spread {:.0} %",
        z.heads.len(),
        z.flow.show(u),
        low.nozzle.number(u),
        high.nozzle.show(u),
        low.band.0.show_round(u),
        z.spread * 100.0
    );
    line!(
        out,
        "     rate {}; fastest pipe {}",
        z.rate.show(u),
        z.velocity.show(u)
    );
    let walk: Vec<String> = z
        .walk
        .iter()
        .map(|s| {
            if s.cost.kpa() == 0.0 && s.label == "Static" {
                format!("{} {}", s.label, s.left.show(u))
            } else {
                format!("{} {}", s.label.to_lowercase(), (-s.cost).number(u))
            }
        })
        .collect();
    line!(
        out,
        "     {} = {}",
        walk.join(", "),
        z.walk.last().map_or(String::new(), |s| s.left.show(u))
    );
}

fn findings(out: &mut String, findings: &[Finding]) {
    for f in findings {
        line!(out, "     {} {}: {}", severity(f.severity), f.title, f.text);
        for r in &f.remedies {
            line!(out, "          - {}: {}", r.label, r.effect);
        }
    }
}

pub fn quick_text(plan: &Plan, a: &Answer) -> String {
    let u = plan.units;
    let mut out = String::new();
    let design = &a.assessment.supplies[0].design;
    line!(
        out,
        "design flow   {} ({})",
        design.flow.map_or("not known".into(), |f| f.show(u)),
        design.by.map_or("add meter or service line", school)
    );
    match a.fits {
        Some(n) => line!(out, "fits          {n} heads; {}", a.limit),
        None => line!(out, "fits          not one head: {}", a.limit),
    }
    if let Some((how, n)) = &a.fits_regulated {
        line!(
            out,
            "              {n} heads with a regulator: {}",
            how.to_lowercase()
        );
    }
    match &a.zone {
        Ok(z) => {
            if let (Some(first), Some(last)) = (z.heads.first(), z.heads.last()) {
                line!(out, "first head    {}", first.nozzle.show(u));
                line!(out, "last head     {}", last.nozzle.show(u));
            }
            line!(
                out,
                "lowest        {} (wants {}, at least {})",
                z.lowest().nozzle.show(u),
                z.lowest().band.0.show_round(u),
                z.lowest().band.1.show_round(u)
            );
            line!(out, "flow          {}", z.flow.show(u));
            zone(&mut out, z, u);
        }
        Err(fault) => line!(out, "no figures    {fault}"),
    }
    if let Some(c) = &a.regulation {
        line!(out, "regulator     {}: {}", c.options[c.recommended].label, c.why);
        for o in &c.options {
            line!(
                out,
                "  {:<34} {:>6} to {:<9} {:>9}  spread {:>3.0} %  parts {}  {}",
                o.label,
                o.zone.lowest().nozzle.number(u),
                o.zone.highest().nozzle.show(u),
                o.zone.flow.show(u),
                o.zone.spread * 100.0,
                o.pieces,
                o.notes.join("; ")
            );
        }
    }
    for z in &a.assessment.zones {
        findings(&mut out, &z.findings);
    }
    for s in &a.assessment.supplies {
        findings(&mut out, &s.findings);
    }
    line!(out, "{DEFER}");
    out
}

pub fn json(plan: &Plan, a: &Assessment) -> String {
    let supplies: Vec<Value> = a
        .supplies
        .iter()
        .map(|s| {
            let school = |r: &SchoolResult| {
                json!({
                    "school": r.school,
                    "flow_lpm": r.flow.map(|f| f.lpm()),
                    "says": r.says,
                    "workings": r.workings,
                })
            };
            let schools: Vec<Value> = s.design.schools.iter().map(school).collect();
            json!({
                "id": s.id,
                "static_kpa": s.curve.as_ref().ok().map(|c| c.static_pressure.kpa()),
                "schools": schools,
                "by": s.design.by,
                "pinned": s.design.pinned,
                "design_flow_lpm": s.design.flow.map(|f| f.lpm()),
                "findings": s.findings.iter().map(finding).collect::<Vec<_>>(),
            })
        })
        .collect();
    let zones: Vec<Value> = a
        .zones
        .iter()
        .map(|z| {
            json!({
                "valve": z.valve,
                "zone": z.zone.as_ref().ok().map(zone_json),
                "fault": z.zone.as_ref().err().map(ToString::to_string),
                "findings": z.findings.iter().map(finding).collect::<Vec<_>>(),
            })
        })
        .collect();
    let value = json!({
        "format": "fenlo-check/1",
        "name": plan.name,
        "supplies": supplies,
        "valves": {
            "count": plan.valves.len(),
            "least": a.bound.valves,
            "why": a.bound.lines,
            "unassigned_heads": a.unassigned,
        },
        "zones": zones,
        "stop": a.count(Severity::Stop), "fix": a.count(Severity::Fix), "watch": a.count(Severity::Watch),
    });
    pretty(&value)
}

pub fn quick_json(plan: &Plan, a: &Answer) -> String {
    let regulation = a.regulation.as_ref().map(|c: &Comparison| {
        json!({
            "recommended": c.recommended, "why": c.why,
            "options": c.options.iter().map(option).collect::<Vec<_>>(),
        })
    });
    let s = &a.assessment.supplies[0];
    let findings = a
        .assessment
        .zones
        .iter()
        .flat_map(|z| &z.findings)
        .chain(&s.findings);
    pretty(&json!({
        "format": "fenlo-quick/1",
        "units": plan.units,
        "design_flow_lpm": s.design.flow.map(|f| f.lpm()),
        "limited_by": s.design.by,
        "fits": a.fits,
        "limit": a.limit,
        "fits_regulated": a.fits_regulated.as_ref().map(|(how, n)| json!({ "with": how, "fits": n })),
        "zone": a.zone.as_ref().ok().map(zone_json),
        "fault": a.zone.as_ref().err().map(ToString::to_string),
        "regulation": regulation,
        "findings": findings.map(finding).collect::<Vec<_>>(),
    }))
}

fn option(o: &RegulationOption) -> Value {
    json!({
        "label": o.label,
        "works": o.works,
        "pieces": o.pieces,
        "notes": o.notes,
        "zone": zone_json(&o.zone),
    })
}

fn zone_json(z: &ZoneAssessment) -> Value {
    let regulator = |r: &RegulatorResult| {
        json!({
            "label": r.label,
            "set_kpa": r.set.kpa(),
            "inlet_kpa": r.inlet.kpa(),
            "room_kpa": r.room.kpa(),
            "state": r.state,
        })
    };
    let step = |w: &WalkStep| json!({ "step": w.label, "cost_kpa": w.cost.kpa(), "left_kpa": w.left.kpa(), "note": w.note });
    let head = |h: &HeadResult| {
        json!({
            "group": h.head.group,
            "number": h.head.index + 1,
            "arc": h.arc,
            "inlet_kpa": h.inlet.kpa(),
            "nozzle_kpa": h.nozzle.kpa(),
            "flow_lpm": h.flow.lpm(),
        })
    };
    json!({
        "flow_lpm": z.flow.lpm(),
        "first_head_kpa": z.heads.first().map(|h| h.nozzle.kpa()),
        "last_head_kpa": z.heads.last().map(|h| h.nozzle.kpa()),
        "lowest_kpa": z.lowest().nozzle.kpa(),
        "highest_kpa": z.highest().nozzle.kpa(),
        "nominal_kpa": z.lowest().band.0.kpa(),
        "spread": z.spread,
        "rate_mmph": z.rate.mmph(),
        "velocity_mps": z.velocity.mps(),
        "regulator": z.regulator.as_ref().map(regulator),
        "walk": z.walk.iter().map(step).collect::<Vec<_>>(),
        "heads": z.heads.iter().map(head).collect::<Vec<_>>(),
    })
}

fn finding(f: &Finding) -> Value {
    let remedy = |r: &Remedy| json!({ "label": r.label, "effect": r.effect, "edit": r.edit });
    json!({
        "code": f.code,
        "severity": f.severity,
        "title": f.title,
        "text": f.text,
        "working": f.working,
        "remedies": f.remedies.iter().map(remedy).collect::<Vec<_>>(),
    })
}

fn pretty(value: &Value) -> String {
    serde_json::to_string_pretty(value).unwrap_or_default() + "\n"
}
