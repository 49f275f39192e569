//! What the commands print.

/// Writing to a String can't fail.
macro_rules! line {
    ($out:expr) => { $out.push('\n') };
    ($out:expr, $($arg:tt)*) => { { let _ = writeln!($out, $($arg)*); } };
}

mod drip;
mod parts;
mod pipes;
mod throws;
mod times;

pub use drip::rows;
pub use parts::{parts_json, parts_text, quote_json, quote_text};
pub use pipes::{pipes_text, put_pipes};
pub use times::{times_json, times_text};

use fenlo_core::assess::{AreaReport, Assessment, drip_report, pipes_report};
use fenlo_core::job::Job;
use fenlo_core::plan::WaterSource;
use fenlo_core::quick::Answer;
use fenlo_core::regulation::{Comparison, RegulationOption};
use fenlo_core::remedies::{self, Diagnosis, Remedy};
use fenlo_core::site::SiteObject;
use fenlo_core::terms::Lang;
use fenlo_core::units::UnitSystem;
use fenlo_core::verdict::{Subject, Verdict};
use fenlo_core::water::{DesignFlow, MethodResult, ZoneFlow};
use fenlo_core::zone::{HeadResult, RegulatorResult, WalkPart, WalkStep, ZoneAssessment, ZoneFault};
use fenlo_core::zoning::{Fits, fit};
use fenlo_words as words;
use serde_json::{Value, json};
use std::fmt::Write;

const DEFER: &str = "Fenlo supports licensed professionals and local code. It does not replace them.";

/// A job with all that is known of it.
pub struct Checked<'a> {
    pub job: &'a Job,
    pub known: &'a Assessment,
    pub areas: &'a [AreaReport],
    pub verdict: &'a Verdict,
}

impl Checked<'_> {
    fn of(&self, of: &Subject) -> Vec<Diagnosis> {
        self.verdict.diagnoses(self.job, self.known, of)
    }

    /// What is said of areas without heads, and of the job as a whole.
    fn of_the_rest(&self) -> Vec<Diagnosis> {
        let bare = |o: &SiteObject| self.areas.iter().all(|r| r.area != o.id);
        let areas = self.job.site.areas().map(|(o, _)| o).filter(|o| bare(o));
        areas.flat_map(|o| self.of(&Subject::Area(o.id.clone()))).chain(self.of(&Subject::Job)).collect()
    }
}

pub fn text(checked: &Checked<'_>) -> String {
    let Checked { job, known: a, areas, verdict } = *checked;
    let u = job.units;
    let mut out = String::new();
    line!(out, "{}", job.name);
    if !job.location.is_empty() {
        line!(out, "{}", job.location);
    }
    for s in &a.supplies {
        line!(out);
        line!(out, "WATER  {}", job.supply(&s.id).map_or("", |p| &p.name));
        if let Ok(point) = &s.point {
            let pressure = point.curve.static_pressure;
            line!(out, "  static pressure      {}", pressure.show(u));
        }
        let water = job.supply(&s.id).map_or(&WaterSource::Street, |p| &p.water);
        for r in &s.design.methods {
            let chosen = if s.design.by == Some(r.method) {
                if s.design.pinned { "  <- set by hand" } else { "  <- used for all valves" }
            } else {
                ""
            };
            line!(
                out,
                "  {:<34} {:>10}  {}{chosen}",
                words::method(r.method, water),
                r.flow.map_or("-".into(), |f| f.show(u)),
                words::method_says(&r.says, u)
            );
        }
        line!(out, "  design flow          {}", design_flow(&s.design, u));
        findings(&mut out, &checked.of(&Subject::Supply(s.id.clone())), job);
    }
    line!(out);
    line!(
        out,
        "VALVES  {} (minimum {} at target pressure within design flow){}",
        job.valves.len(),
        a.bound.valves,
        if a.unassigned > 0 {
            format!(", {} not on a valve", words::counted(a.unassigned, "head"))
        } else {
            String::new()
        }
    );
    for (i, (valve, report)) in job.valves.iter().zip(&a.zones).enumerate() {
        line!(out);
        match &report.zone {
            Ok(z) => {
                line!(out, "{:>3}  {}", i + 1, valve.name);
                zone(&mut out, z, u);
                if let Some(laid) = drip_report(job, report) {
                    drip::text(&mut out, &laid, u);
                }
                throws::text(&mut out, job, valve);
            }
            Err(fault) => line!(out, "{:>3}  {}: {}", i + 1, valve.name, words::zone_fault(fault, u)),
        }
        findings(&mut out, &checked.of(&Subject::Valve(valve.id.clone())), job);
    }
    for later in a.later(job) {
        line!(out);
        line!(out, "LATER  {}", words::later_said(&later, u));
    }
    out += &pipes_text(job, a);
    out += &areas_text(job, a, areas);
    let rest = checked.of_the_rest();
    if !rest.is_empty() {
        line!(out);
        line!(out, "JOB");
        findings(&mut out, &rest, job);
    }
    let total = verdict.total();
    line!(out);
    line!(out, "Stop {}, Fix {}, Watch {}, Open {}. {DEFER}", total.stop, total.fix, total.watch, total.open);
    out
}

/// The figure, or what is assumed in its place.
fn design_flow(design: &DesignFlow, u: UnitSystem) -> String {
    match (design.flow, design.assumed) {
        (Some(flow), _) => flow.show(u),
        (None, Some(assumed)) => format!("unknown; company default {}", assumed.show(u)),
        (None, None) => "not known yet".into(),
    }
}

/// Every area with drawn heads: its evenness, rate and findings.
pub fn areas_text(job: &Job, a: &Assessment, areas: &[AreaReport]) -> String {
    let mut out = String::new();
    for area in areas {
        area_text(&mut out, area, a, job);
    }
    out
}

fn area_text(out: &mut String, area: &AreaReport, a: &Assessment, job: &Job) {
    let u = job.units;
    let name = job.site.object(&area.area).map_or("", |t| t.title());
    let c = &area.coverage;
    line!(out);
    line!(
        out,
        "AREA  {name}: {}, {}",
        words::counted(c.heads, "head"),
        words::kind(area.kind).to_lowercase()
    );
    line!(
        out,
        "     DU ideal {:.2}, expected {}; rate {} ({} without other areas); {:.1}% outside the area, \
            {:.1}% on no-spray areas",
        c.uniformity.map_or(0.0, |k| k.du),
        area.expected.map_or("-".into(), |e| format!("{:.2}", e.du)),
        area.rate.show(u),
        area.own_rate.show(u),
        c.overspray() * 100.0,
        c.on_dry() * 100.0
    );
    findings(out, &remedies::of_area(job, a, area), job);
}

fn zone(out: &mut String, z: &ZoneAssessment, u: UnitSystem) {
    let (low, high) = (z.lowest(), z.highest());
    line!(
        out,
        "     {} head{}, {}; {} to {} at the nozzles (rated {}), variation {:.0}%",
        z.heads.len(),
        if z.heads.len() == 1 { "" } else { "s" },
        z.flow.show(u),
        low.nozzle.number(u),
        high.highest.show(u),
        low.band.best.show_round(u),
        z.spread * 100.0
    );
    line!(out, "     rate {}; highest velocity {}", z.rate.show(u), z.velocity.show(u));
    let walk: Vec<String> = z
        .walk
        .iter()
        .map(|s| {
            let label = words::walk_part(&s.part);
            if s.cost.kpa() == 0.0 && s.part == WalkPart::Static {
                format!("{label} {}", s.left.show(u))
            } else {
                format!("{} {}", words::inside(&label), (-s.cost).number(u))
            }
        })
        .collect();
    line!(out, "     {} = {}", walk.join(", "), z.walk.last().map_or(String::new(), |s| s.left.show(u)));
}

/// Joints of a valve or a point of connection that can't be made.
fn findings(out: &mut String, found: &[Diagnosis], job: &Job) {
    for f in found {
        let said = words::finding(&f.finding, job);
        line!(out, "     {} {}: {}", f.finding.severity.name(Lang::En), said.title, said.text);
        for r in &f.remedies {
            line!(out, "          - {}: {}", words::action(&r.action, job), words::gives(r, job));
        }
    }
}

pub fn quick_text(job: &Job, a: &Answer) -> String {
    let u = job.units;
    let mut out = String::new();
    let design = &a.assessment.supplies[0].design;
    line!(
        out,
        "design flow   {} ({})",
        design_flow(design, u),
        design.by.map_or("add meter or service line", |by| words::method(by, &job.supplies[0].water))
    );
    let limit = words::limit(a.limit, design.assumed.is_some(), u);
    match a.fits.aim {
        Some(n) => line!(
            out,
            "fits          {n} head{}{}; {limit}",
            if n == 1 { "" } else { "s" },
            words::aim_note(a.aim)
        ),
        None => line!(out, "fits          no head: {limit}"),
    }
    let count = |n: Option<u32>| n.map_or("none".to_owned(), |n| n.to_string());
    line!(
        out,
        "              {} at rated pressure, {} at target, {} at minimum",
        count(a.fits.nominal),
        count(a.fits.aim),
        count(a.fits.least)
    );
    if let Some((how, n)) = a.fits_regulated {
        line!(
            out,
            "              {} with a regulator: {}",
            words::counted(n as usize, "head"),
            words::inside(&words::way(how, u))
        );
    }
    match &a.zone {
        Ok(z) => {
            if let (Some(first), Some(last)) = (z.heads.first(), z.heads.last()) {
                line!(out, "first head    {}", first.nozzle.show(u));
                line!(out, "weakest head  {}", last.nozzle.show(u));
            }
            line!(
                out,
                "weakest       {} (rated {}, minimum {})",
                z.lowest().nozzle.show(u),
                z.lowest().band.best.show_round(u),
                z.lowest().band.least.show_round(u)
            );
            line!(out, "flow          {}", z.flow.show(u));
            zone(&mut out, z, u);
        }
        Err(fault) => line!(out, "no figures    {}", words::zone_fault(fault, u)),
    }
    if let Some(c) = &a.regulation {
        line!(out, "regulator     {}: {}", words::way(c.options[c.recommended].way, u), words::why(c.why, u));
        for o in &c.options {
            line!(
                out,
                "  {:<34} {:>6} to {:<9} {:>9}  variation {:>3.0}%  {}  {}",
                words::way(o.way, u),
                o.zone.lowest().nozzle.number(u),
                o.zone.highest().highest.show(u),
                o.zone.flow.show(u),
                o.zone.spread * 100.0,
                words::takes(o, &job.rules.buying.currency),
                notes(o, u).join("; ")
            );
        }
    }
    findings(&mut out, &all_found(job, a), job);
    line!(out, "{DEFER}");
    out
}

/// Findings of the zone, then of the water.
fn all_found(job: &Job, a: &Answer) -> Vec<Diagnosis> {
    let zones = job.valves.iter().flat_map(|v| remedies::of_zone(job, &a.assessment, v));
    let water = job.supplies.iter().flat_map(|s| remedies::of_supply(job, &a.assessment, s));
    zones.chain(water).collect()
}

fn notes(o: &RegulationOption, u: UnitSystem) -> Vec<String> {
    o.notes.iter().map(|n| words::note(*n, u)).collect()
}

fn fault(zone: &Result<impl Sized, ZoneFault>, u: UnitSystem) -> Option<String> {
    zone.as_ref().err().map(|fault| words::zone_fault(fault, u))
}

pub fn json(checked: &Checked<'_>) -> String {
    let Checked { job, known: a, areas, verdict } = *checked;
    let (u, total) = (job.units, verdict.total());
    let supplies: Vec<Value> = a
        .supplies
        .iter()
        .map(|s| {
            let method = |r: &MethodResult| {
                json!({
                    "school": r.method,
                    "flow_lpm": r.flow.map(|f| f.lpm()),
                    "says": words::method_says(&r.says, u),
                    "workings": r.rules.iter().map(|rule| words::rule(rule, u)).collect::<Vec<_>>(),
                })
            };
            json!({
                "id": s.id,
                "static_kpa": s.point.as_ref().ok().map(|p| p.curve.static_pressure.kpa()),
                "schools": s.design.methods.iter().map(method).collect::<Vec<_>>(),
                "by": s.design.by,
                "pinned": s.design.pinned,
                "design_flow_lpm": s.design.flow.map(|f| f.lpm()),
                "design": design_json(&s.design),
                "findings": findings_json(&checked.of(&Subject::Supply(s.id.clone())), job),
            })
        })
        .collect();
    let zones: Vec<Value> = job
        .valves
        .iter()
        .zip(&a.zones)
        .map(|(valve, z)| {
            let design = a.supply(&valve.supply).map(|s| &s.design);
            let fits = design.and_then(|d| fit(job, valve, d.limit()));
            json!({
                "valve": z.valve,
                "fits": fits.map(|f| fits_json(f.fits)),
                "limited_by": fits.and_then(|f| f.limit.word()),
                "aim": fits.map(|f| f.aim.word()),
                "assumed": design.is_some_and(|d| d.assumed.is_some()),
                "zone": z.zone.as_ref().ok().map(|z| zone_json(z, u)),
                "drip": drip_report(job, z).map(|d| drip::json(&d)),
                "throws": throws::json(job, valve),
                "fault": fault(&z.zone, u),
                "findings": findings_json(&checked.of(&Subject::Valve(z.valve.clone())), job),
            })
        })
        .collect();
    let mut value = json!({
        "format": "fenlo-check/1",
        "name": job.name,
        "supplies": supplies,
        "valves": {
            "count": job.valves.len(),
            "least": a.bound.valves,
            "why": a.bound.classes.iter().map(|c| words::class_bound(c, u)).collect::<Vec<_>>(),
            "unassigned_heads": a.unassigned,
        },
        "later": a.later(job).iter().map(|l| json!({
            "area": l.area, "kind": l.kind, "flow_lpm": l.flow.lpm(), "stations": l.stations,
            "rate_mmph": l.rate.mmph(), "from_main_m": l.stub.as_ref().map(|s| s.length().m()),
        })).collect::<Vec<_>>(),
        "zones": zones,
        "areas": areas_json(job, a, areas),
        "findings": findings_json(&checked.of_the_rest(), job),
        "stop": total.stop, "fix": total.fix, "watch": total.watch, "open": total.open,
    });
    if let Some(pipes) = pipes_report(job, a) {
        put_pipes(&mut value, job, &pipes);
    }
    pretty(&value)
}

pub fn quick_json(job: &Job, a: &Answer) -> String {
    let u = job.units;
    let regulation = a.regulation.as_ref().map(|c: &Comparison| {
        json!({
            "recommended": c.recommended, "why": words::why(c.why, u),
            "options": c.options.iter().map(|o| option(o, u)).collect::<Vec<_>>(),
        })
    });
    let s = &a.assessment.supplies[0];
    let regulated = a.fits_regulated.map(|(how, n)| json!({ "with": words::way(how, u), "fits": n }));
    pretty(&json!({
        "format": "fenlo-quick/1",
        "units": job.units,
        "design_flow_lpm": s.design.flow.map(|f| f.lpm()),
        "design": design_json(&s.design),
        "by": s.design.by,
        "assumed": s.design.assumed.is_some(),
        "fits": fits_json(a.fits),
        "limited_by": a.limit.word(),
        "aim": a.aim.word(),
        "limit": words::limit(a.limit, s.design.assumed.is_some(), u),
        "fits_regulated": regulated,
        "zone": a.zone.as_ref().ok().map(|z| zone_json(z, u)),
        "fault": fault(&a.zone, u),
        "regulation": regulation,
        "findings": findings_json(&all_found(job, a), job),
    }))
}

fn fits_json(fits: Fits) -> Value {
    json!({ "nominal": fits.nominal, "aim": fits.aim, "least": fits.least })
}

fn design_json(design: &DesignFlow) -> Value {
    let zone = |z: &ZoneFlow| {
        json!({
            "valve": z.valve,
            "flow_lpm": z.flow.map(|f| f.lpm()),
            "aim": z.aim.word(),
            "wanted_kpa": z.wanted.kpa(),
            "missing_kpa": z.missing.map(|p| p.kpa()),
        })
    };
    json!({
        "flow_lpm": design.flow.map(|f| f.lpm()),
        "safe_lpm": design.safe.map(|f| f.lpm()),
        "limit_lpm": design.limit().map(|f| f.lpm()),
        "assumed": design.assumed.is_some(),
        "assumed_lpm": design.assumed.map(|f| f.lpm()),
        "margin": design.margin,
        "house_lpm": design.house.lpm(),
        "by": design.by,
        "pinned": design.pinned,
        "by_zone": design.by_zone.iter().map(zone).collect::<Vec<_>>(),
    })
}

pub fn areas_json(job: &Job, a: &Assessment, areas: &[AreaReport]) -> Vec<Value> {
    areas.iter().map(|r| area_json(r, a, job)).collect()
}

fn area_json(r: &AreaReport, a: &Assessment, job: &Job) -> Value {
    let known = r.coverage.uniformity;
    json!({
        "id": r.area,
        "name": job.site.object(&r.area).map(|t| t.title()),
        "nozzle_kind": r.kind,
        "heads": r.coverage.heads,
        "du_ideal": known.map(|k| k.du),
        "du_expected": r.expected.map(|e| e.du),
        "du_spread": r.expected.map(|e| e.spread),
        "cu": known.map(|k| k.cu),
        "sc": known.map(|k| k.sc).filter(|sc| sc.is_finite()),
        "flow_lpm": r.coverage.flow.lpm(),
        "rate_mmph": r.rate.mmph(),
        "kind_rate_mmph": r.own_rate.mmph(),
        "off_area": r.coverage.overspray(),
        "on_dry": r.coverage.on_dry(),
        "unwatered": r.coverage.unreached,
        "findings": findings_json(&remedies::of_area(job, a, r), job),
    })
}

fn option(o: &RegulationOption, u: UnitSystem) -> Value {
    json!({
        "label": words::way(o.way, u),
        "works": o.works,
        "pieces": o.pieces,
        "cost": o.cost,
        "notes": notes(o, u),
        "zone": zone_json(&o.zone, u),
    })
}

fn zone_json(z: &ZoneAssessment, u: UnitSystem) -> Value {
    let regulator = |r: &RegulatorResult| {
        json!({
            "label": words::regulator(&r.part, r.set, u),
            "set_kpa": r.set.kpa(),
            "inlet_kpa": r.inlet.kpa(),
            "room_kpa": r.room.kpa(),
            "state": r.state,
        })
    };
    let step = |w: &WalkStep| {
        json!({
            "step": words::walk_part(&w.part),
            "cost_kpa": w.cost.kpa(),
            "left_kpa": w.left.kpa(),
            "note": words::walk_note(w.note, u),
        })
    };
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
        "highest_kpa": z.highest().highest.kpa(),
        "nominal_kpa": z.lowest().band.best.kpa(),
        "spread": z.spread,
        "rate_mmph": z.rate.mmph(),
        "velocity_mps": z.velocity.mps(),
        "regulator": z.regulator.as_ref().map(regulator),
        "walk": z.walk.iter().map(step).collect::<Vec<_>>(),
        "heads": z.heads.iter().map(head).collect::<Vec<_>>(),
    })
}

fn findings_json(found: &[Diagnosis], job: &Job) -> Vec<Value> {
    let remedy = |r: &Remedy| {
        json!({
            "label": words::action(&r.action, job),
            "effect": words::gives(r, job),
            "mends": r.mends,
            "edit": r.edit,
        })
    };
    let one = |f: &Diagnosis| {
        let said = words::finding(&f.finding, job);
        json!({
            "code": f.finding.code(),
            "severity": f.finding.severity,
            "title": said.title,
            "text": said.text,
            "working": said.working,
            "remedies": f.remedies.iter().map(remedy).collect::<Vec<_>>(),
        })
    };
    found.iter().map(one).collect()
}

pub fn pretty(value: &Value) -> String {
    serde_json::to_string_pretty(value).unwrap_or_default() + "\n"
}
