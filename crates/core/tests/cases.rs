//! Whole jobs against figures that were found apart from the program: `cases/hand.py` works them leg by
//! leg, `cases/cases.py` writes them down with the findings that practice would have. Good sites are
//! silent: a finding on one of them fails just as a missing one does.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use fenlo_core::assess::{Assessment, assess};
use fenlo_core::findings::{Finding, Severity};
use fenlo_core::job::Job;
use fenlo_core::plan::Plan;
use fenlo_core::remedies;
use fenlo_core::units::{Flow, Pressure};
use fenlo_core::zoning::fit;
use serde::Deserialize;
use std::collections::BTreeMap;
use std::fs;
use std::path::Path;

/// A figure, and how far off it may be.
type Near = (f64, f64);

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Case {
    how: String,
    plan: Plan,
    expect: Expect,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Expect {
    supply: Vec<String>,
    zones: BTreeMap<String, ZoneExpect>,
    /// Present and null: no design flow is known.
    #[serde(default, deserialize_with = "present")]
    design_gpm: Option<Option<Near>>,
    assumed_gpm: Option<f64>,
    /// (gpm, psi) that are left at the gauge.
    #[serde(default)]
    curve: Vec<Near>,
}

fn present<'de, D: serde::Deserializer<'de>>(d: D) -> Result<Option<Option<Near>>, D::Error> {
    Option::<Near>::deserialize(d).map(Some)
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct ZoneExpect {
    findings: Vec<String>,
    flow_gpm: Option<Near>,
    lowest_psi: Option<Near>,
    highest_psi: Option<Near>,
    standing_psi: Option<Near>,
    fits: Option<FitsExpect>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct FitsExpect {
    nominal: u32,
    aim: u32,
    least: u32,
    limited_by: String,
}

fn cases() -> Vec<(String, Case)> {
    let dir = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/cases");
    let mut files: Vec<_> = fs::read_dir(dir).unwrap().map(|e| e.unwrap().path()).collect();
    files.sort();
    files.retain(|f| f.extension().is_some_and(|e| e == "json"));
    files
        .into_iter()
        .map(|file| {
            let name = file.file_stem().unwrap().to_string_lossy().into_owned();
            let text = fs::read_to_string(&file).unwrap();
            let case = serde_json::from_str(&text).unwrap_or_else(|e| panic!("{name}: {e}"));
            (name, case)
        })
        .collect()
}

fn codes(findings: &[Finding]) -> Vec<String> {
    let mut codes: Vec<String> = findings.iter().map(|f| f.code().to_owned()).collect();
    codes.sort();
    codes.dedup();
    codes
}

/// Collects what is not as expected.
struct Wrong<'a> {
    case: &'a str,
    said: Vec<String>,
}

impl Wrong<'_> {
    fn near(&mut self, what: &str, found: f64, wanted: Option<Near>) {
        if let Some((value, off)) = wanted.filter(|(value, off)| (found - value).abs() > *off) {
            self.said.push(format!("{}: {what} {found:.3}, by hand {value} ±{off}", self.case));
        }
    }
    fn same<T: PartialEq + std::fmt::Debug>(&mut self, what: &str, found: T, wanted: T) {
        if found != wanted {
            self.said.push(format!("{}: {what} {found:?}, wanted {wanted:?}", self.case));
        }
    }
}

fn check(case: &Case, name: &str) -> Vec<String> {
    let job = Job::of(&case.plan);
    let mut wrong = Wrong { case: name, said: Vec::new() };
    wrong.same("faults", job.faults(), Vec::new());
    let known = assess(&job);
    let supply = &known.supplies[0];
    wrong.same("supply", codes(&supply.findings), case.expect.supply.clone());
    if let Some(wanted) = case.expect.design_gpm {
        let found = supply.design.flow.map(Flow::gpm);
        wrong.same("design flow known", found.is_some(), wanted.is_some());
        wrong.near("design flow, gpm", found.unwrap_or_default(), wanted);
    }
    if let Some(assumed) = case.expect.assumed_gpm {
        let found = supply.design.assumed.map(|f| (f.gpm() * 100.0).round() / 100.0);
        wrong.same("assumed, gpm", found, Some(assumed));
    }
    for (gpm, psi) in &case.expect.curve {
        let left = supply.point.as_ref().unwrap().curve.pressure_at(Flow::from_gpm(*gpm));
        wrong.near("left at the gauge, psi", left.psi(), Some((*psi, 0.01)));
    }
    for (id, wanted) in &case.expect.zones {
        zone(&job, &known, id, wanted, &mut wrong);
    }
    wrong.said
}

fn zone(job: &Job, known: &Assessment, id: &str, wanted: &ZoneExpect, wrong: &mut Wrong<'_>) {
    let report = known.zone(id).unwrap();
    wrong.same(id, codes(&report.findings), wanted.findings.clone());
    let Ok(zone) = &report.zone else {
        wrong.said.push(format!("{}: {id} has no figures", wrong.case));
        return;
    };
    wrong.near("flow, gpm", zone.flow.gpm(), wanted.flow_gpm);
    wrong.near("lowest, psi", zone.lowest().nozzle.psi(), wanted.lowest_psi);
    wrong.near("highest, psi", zone.highest().nozzle.psi(), wanted.highest_psi);
    wrong.near("standing, psi", zone.standing.at_rest.psi(), wanted.standing_psi);
    if let Some(fits) = &wanted.fits {
        let valve = job.valve(id).unwrap();
        let design = known.supply(&valve.supply).unwrap().design.limit();
        let found = fit(job, valve, design).unwrap();
        let counts = [found.fits.nominal, found.fits.aim, found.fits.least];
        let by_hand = [fits.nominal, fits.aim, fits.least].map(|n| Some(n).filter(|n| *n > 0));
        wrong.same("fits", counts, by_hand);
        wrong.same("limited by", found.limit.word(), Some(fits.limited_by.as_str()));
    }
}

#[test]
fn every_case_comes_out_as_it_was_found_by_hand() {
    let cases = cases();
    assert!(cases.len() >= 40, "only {} cases", cases.len());
    let silent =
        |c: &Case| c.expect.supply.is_empty() && c.expect.zones.values().all(|z| z.findings.is_empty());
    assert!(cases.iter().filter(|c| silent(&c.1)).count() >= 18, "good sites are half of it");
    assert!(cases.iter().all(|c| !c.1.how.is_empty()), "each says how it was found");
    let wrong: Vec<String> = cases.iter().flat_map(|(name, case)| check(case, name)).collect();
    assert!(wrong.is_empty(), "\n{}", wrong.join("\n"));
}

/// Codes of all findings that are as bad as that or worse.
fn grave(known: &Assessment, as_bad: Severity) -> Vec<String> {
    let zones = known.zones.iter().flat_map(|z| &z.findings);
    let all = zones.chain(known.supplies.iter().flat_map(|s| &s.findings));
    let grave: Vec<Finding> = all.filter(|f| f.severity <= as_bad).cloned().collect();
    codes(&grave)
}

#[test]
fn a_remedy_of_any_case_gives_what_it_promised_and_nothing_as_bad() {
    let mut tried = 0;
    for (name, case) in cases() {
        let job = Job::of(&case.plan);
        let known = assess(&job);
        let zones = job.valves.iter().flat_map(|v| remedies::of_zone(&job, &known, v));
        let all = zones.chain(job.supplies.iter().flat_map(|s| remedies::of_supply(&job, &known, s)));
        for found in all {
            for remedy in &found.remedies {
                let (next, back) = job.apply(&remedy.edit).unwrap_or_else(|e| panic!("{name}: {e}"));
                assert_eq!(next.apply(&back).unwrap().0, job, "{name}: taken back");
                let after = assess(&next);
                let code = found.finding.code();
                let still = |k: &Assessment| {
                    let zones = k.zones.iter().flat_map(|z| &z.findings);
                    let all = zones.chain(k.supplies.iter().flat_map(|s| &s.findings));
                    all.filter(|f| f.code() == code && f.severity <= found.finding.severity).count()
                };
                if remedy.mends {
                    assert!(
                        still(&after) < still(&known).max(1),
                        "{name}: {:?} leaves {code}",
                        remedy.action
                    );
                }
                if remedy.costs.is_empty() {
                    let severity = found.finding.severity;
                    let (was, now) = (grave(&known, severity), grave(&after, severity));
                    let new: Vec<_> = now.iter().filter(|c| !was.contains(c)).collect();
                    assert!(new.is_empty(), "{name}: {:?} for {code} brings {new:?}", remedy.action);
                }
                let starving = |k: &Assessment| {
                    let zones = k.zones.iter().filter_map(|z| z.zone.as_ref().ok());
                    zones.filter(|z| z.lowest().nozzle < z.lowest().band.least).count()
                };
                assert!(starving(&after) <= starving(&known).max(1), "{name}: {:?} starves", remedy.action);
                tried += 1;
            }
        }
    }
    assert!(tried > 25, "only {tried} remedies were offered");
}

#[test]
fn a_lower_street_never_keeps_nominal_for_more_heads_nor_raises_a_last_head() {
    for (name, case) in cases().into_iter().filter(|c| c.1.expect.zones.values().any(|z| z.fits.is_some())) {
        let mut last = (u32::MAX, Pressure::from_psi(1e6));
        for less in [0.0, 3.0, 6.0, 10.0, 15.0] {
            let mut plan = case.plan.clone();
            for reading in &mut plan.supplies[0].readings {
                if let fenlo_core::plan::ReadingKind::Static { pressure } = &mut reading.kind {
                    *pressure = *pressure - Pressure::from_psi(less);
                }
            }
            let job = Job::new(plan);
            let known = assess(&job);
            let nominal = fit(&job, &job.valves[0], known.supplies[0].design.limit()).unwrap().fits.nominal;
            let lowest = known.zones[0].zone.as_ref().unwrap().lowest().nozzle;
            assert!(nominal.unwrap_or(0) <= last.0 && lowest < last.1, "{name}: {less} psi less");
            last = (nominal.unwrap_or(0), lowest);
        }
    }
}
