mod drip;
pub(crate) mod piping;
mod rules;

use super::*;
use crate::assess::{assess, assess_after};
use crate::job::Job;
use crate::job::tests::apply;
use crate::plan::tests::{group, valve};
use crate::plan::{ChainItem, ChainPart, DripRow, DripSchool, Edit, HeadGroup, Plan, Regulation, Valve};
use crate::regulation::{OptionNote, Way, Why, compare};
use crate::remedies::{self, Action, Diagnosis, Effect, Remedy};
use crate::units::{Length, Pressure};
use crate::zone::tests::plan;
use crate::zone::zone_of;

fn psi(psi: f64) -> Pressure {
    Pressure::from_psi(psi)
}
fn found(plan: &Plan) -> Vec<Diagnosis> {
    let job = Job::of(plan);
    remedies::of_zone(&job, &assess(&job), &plan.valves[0])
}
fn codes(plan: &Plan) -> Vec<&'static str> {
    assess(&Job::of(plan)).zones[0].findings.iter().map(Finding::code).collect()
}
fn of(plan: &Plan, code: &str) -> Diagnosis {
    let all = found(plan);
    let names: Vec<_> = all.iter().map(|f| f.finding.code()).collect();
    let hit = all.iter().find(|f| f.finding.code() == code);
    hit.unwrap_or_else(|| panic!("{code} is not among {names:?}")).clone()
}
fn supply_codes(plan: &Plan) -> Vec<&'static str> {
    assess(&Job::of(plan)).supplies[0].findings.iter().map(Finding::code).collect()
}

/// Thirteen heads in a long thin chain: 32 psi at the street.
fn starved() -> Plan {
    let mut p = plan(32.0, "spray-12", &[(180, 13)]);
    p.groups[0].distance = Length::from_ft(120.0);
    p
}

/// What a remedy promised, computed again from the job with it applied.
fn holds(plan: &Plan, remedy: &Remedy) {
    let (after, _) = apply(plan, &remedy.edit).unwrap();
    let job = Job::of(&after);
    let near = |a: f64, b: f64| assert!((a - b).abs() < 1e-6, "{:?}: {a} is not {b}", remedy.action);
    let zone = |i: usize| zone_of(&job, &after.valves[i]).unwrap();
    match remedy.effect {
        Effect::LastHead(p) => near(zone(0).lowest().nozzle.psi(), p.psi()),
        Effect::VelocityAndLastHead(v, p) => {
            near(zone(0).velocity.fps(), v.fps());
            near(zone(0).lowest().nozzle.psi(), p.psi());
        }
        Effect::TwoZones(two) => {
            for (i, (flow, low)) in two.iter().enumerate() {
                near(zone(i).flow.gpm(), flow.gpm());
                near(zone(i).lowest().nozzle.psi(), low.psi());
            }
        }
        Effect::HereAndThere(here, there) => {
            near(zone(0).flow.gpm(), here.gpm());
            near(zone(1).flow.gpm(), there.gpm());
        }
        Effect::Range(low, high) => {
            near(zone(0).lowest().nozzle.psi(), low.psi());
            near(zone(0).highest().nozzle.psi(), high.psi());
        }
        Effect::Starved(n, of) => {
            let zones: Vec<_> = (0..after.valves.len()).map(zone).collect();
            let starved = |z: &&crate::zone::ZoneAssessment| z.lowest().nozzle < z.lowest().band.least;
            assert_eq!((zones.iter().filter(starved).count(), zones.len()), (n, of));
        }
        ref other => panic!("{other:?} is no effect on a zone"),
    }
}

#[test]
fn a_starved_head_is_found_and_each_remedy_gives_what_it_promises() {
    let p = starved();
    let f = of(&p, "head-starved");
    assert_eq!(f.finding.severity, Severity::Stop);
    assert!(f.remedies.len() >= 2);
    f.remedies.iter().for_each(|r| holds(&p, r));
    let actions: Vec<&Action> = f.remedies.iter().map(|r| &r.action).collect();
    assert!(actions.contains(&&Action::Lateral("PVC class 200 1 in".into())), "{actions:?}");
}

#[test]
fn the_promise_of_every_remedy_of_every_zone_finding_holds() {
    let mut drip = plan(60.0, "dripline-0.6", &[(360, 8)]);
    drip.groups[0].row = Some(DripRow { emitters: 20, emitter_spacing: Length::from_in(12.0) });
    let mut mixed = plan(45.0, "spray-12", &[(180, 6)]);
    let mut second = group("g2", "rotator-20", &[(180, 4)]);
    second.listed[0].valve = Some("v1".into());
    mixed.groups.push(second);
    let mut idle = plan(50.0, "spray-12", &[(180, 6)]);
    idle.valves[0].regulation = Regulation::Valve { set: psi(45.0) };
    let fast = plan(70.0, "spray-15", &[(180, 14)]);
    let plans = [starved(), plan(80.0, "spray-12", &[(180, 4)]), drip, mixed, idle, fast];
    let mut seen = std::collections::BTreeSet::new();
    for p in &plans {
        for f in found(p) {
            f.remedies.iter().for_each(|r| holds(p, r));
            if !f.remedies.is_empty() {
                seen.insert(f.finding.code());
            }
        }
    }
    let wanted = ["head-starved", "pressure-high", "mixed-never", "regulator-no-room", "velocity"];
    assert!(wanted.iter().all(|w| seen.contains(w)), "{seen:?}");
}

#[test]
fn towns_under_50_psi_need_no_regulator_and_high_ones_do() {
    let low = plan(35.0, "spray-12", &[(180, 4)]);
    let comparison = compare(&Job::of(&low), &low.valves[0]).unwrap();
    assert_eq!(comparison.options[comparison.recommended].edit, None);
    assert!(matches!(comparison.why, Why::NoneNeeded { .. }));
    let high = plan(80.0, "spray-12", &[(180, 4)]);
    assert!(codes(&high).contains(&"pressure-high"));
    let comparison = compare(&Job::of(&high), &high.valves[0]).unwrap();
    let best = &comparison.options[comparison.recommended];
    assert!(matches!(best.way, Way::Fit(Regulation::Valve { .. })), "{:?}", best.way);
    // The module is set so that the heads' mean is nominal.
    let mean = best.zone.heads.iter().map(|h| h.nozzle.psi()).sum::<f64>() / 4.0;
    assert!((mean - 30.0).abs() < 1.0, "{mean}");
}

#[test]
fn slopes_and_many_heads_are_regulated_in_the_body() {
    let mut p = plan(85.0, "rotator-20", &[(180, 8)]);
    p.groups[0].rise = Length::from_ft(12.0);
    let c = compare(&Job::of(&p), &p.valves[0]).unwrap();
    assert_eq!(c.options[c.recommended].way, Way::Fit(Regulation::Body { set: psi(40.0) }));
    assert_eq!(c.why, Why::Bodies);
}

#[test]
fn bodies_are_not_offered_where_the_kind_has_none() {
    // Large rotors are not made with a regulator in the body.
    let p = plan(120.0, "rotor-large-10", &[(360, 2)]);
    let c = compare(&Job::of(&p), &p.valves[0]).unwrap();
    let bodies = |w: &Way| matches!(w, Way::Fit(Regulation::Body { .. }));
    assert!(
        c.options.iter().all(|o| !bodies(&o.way)),
        "{:?}",
        c.options.iter().map(|o| o.way).collect::<Vec<_>>()
    );
}

#[test]
fn a_regulator_cannot_help_a_starved_zone() {
    let p = starved();
    let c = compare(&Job::of(&p), &p.valves[0]).unwrap();
    assert_eq!(c.options[c.recommended].edit, None);
    assert!(matches!(c.why, Why::Starved(_)));
}

#[test]
fn a_regulator_without_room_is_found_and_lowering_it_gives_it_room() {
    let mut p = plan(50.0, "spray-12", &[(180, 6)]);
    p.valves[0].regulation = Regulation::Valve { set: psi(45.0) };
    let f = of(&p, "regulator-no-room");
    // 50 psi less 1.5 in the valve: 3.5 of the 10 wanted.
    assert!(matches!(f.finding.check, Check::NoRoom { room, .. } if (room.psi() - 3.5).abs() < 0.01));
    let (after, _) = apply(&p, &f.remedies[0].edit).unwrap();
    assert!(!codes(&after).contains(&"regulator-no-room"));
}

#[test]
fn a_module_below_its_flow_is_found_and_one_within_it_is_not() {
    // Two half circles of 5 ft are 0.42 gpm at nominal; a module works from 3 gpm on.
    let mut p = plan(60.0, "spray-5", &[(180, 2)]);
    p.valves[0].regulation = Regulation::Valve { set: psi(32.0) };
    let f = of(&p, "regulator-flow");
    assert_eq!(f.finding.severity, Severity::Watch);
    assert_eq!(f.remedies[0].action, Action::Fit(Regulation::Body { set: psi(30.0) }, 2));
    let mut p = plan(60.0, "spray-12", &[(180, 6)]);
    p.valves[0].regulation = Regulation::Valve { set: psi(32.0) };
    assert!(!codes(&p).contains(&"regulator-flow"));
}

#[test]
fn a_long_chain_is_uneven_and_a_short_one_is_not() {
    let mut p = plan(60.0, "spray-12", &[(180, 16)]);
    p.valves[0].regulation = Regulation::Valve { set: psi(40.0) };
    let f = of(&p, "spread");
    let Check::Spread { lowest, highest, nominal, spread, limit } = f.finding.check else {
        panic!("{f:?}");
    };
    assert!((spread - (highest - lowest) / nominal).abs() < 1e-9 && spread > limit);
    assert!(!codes(&plan(32.0, "spray-12", &[(180, 4)])).contains(&"spread"));
}

#[test]
fn a_system_regulator_robs_those_behind_it() {
    let mut p = plan(110.0, "spray-12", &[(180, 6)]);
    let mut second = group("g2", "rotor-3", &[(180, 3)]);
    second.listed[0].valve = Some("v2".into());
    p.valves.push(valve("v2"));
    p.valves[1].regulation = Regulation::Valve { set: psi(90.0) };
    p.groups.push(second);
    let c = compare(&Job::of(&p), &p.valves[0]).unwrap();
    let system = c.options.iter().find(|o| matches!(o.way, Way::System(_))).unwrap();
    assert!(system.notes.contains(&OptionNote::Robs(2)) && !system.works, "{:?}", system.notes);
}

#[test]
fn drip_is_filtered_and_regulated_by_the_houses_school() {
    let mut p = plan(60.0, "dripline-0.6", &[(360, 8)]);
    p.groups[0].row = Some(DripRow { emitters: 20, emitter_spacing: Length::from_in(12.0) });
    p.valves[0].model = "valve-drip-3/4in".into();
    assert_eq!(codes(&p), ["drip-over-rating", "drip-no-filter", "drip-no-regulator"]);
    p.rules.drip = DripSchool::FilterIfDirty;
    assert!(!codes(&p).contains(&"drip-no-filter"));
    p.valves[0].regulation = Regulation::Inline { set: psi(25.0) };
    assert_eq!(codes(&p), Vec::<&str>::new());
}

#[test]
fn low_flow_wants_a_low_flow_valve_and_mixed_heads_want_two() {
    let p = plan(35.0, "spray-8", &[(180, 2)]);
    let f = of(&p, "valve-min-flow");
    assert_eq!(f.remedies[0].action, Action::LowFlowValve);
    let mut p = plan(45.0, "spray-12", &[(180, 6)]);
    let mut second = group("g2", "rotator-20", &[(180, 4)]);
    second.listed[0].valve = Some("v1".into());
    p.groups.push(second);
    let (after, _) = apply(&p, &of(&p, "mixed-never").remedies[0].edit).unwrap();
    assert_eq!(after.valves.len(), 2);
    assert!(!codes(&after).contains(&"mixed-never"));
}

#[test]
fn drinking_water_without_backflow_protection_stops() {
    let mut p = plan(90.0, "spray-12", &[(180, 4)]);
    assert_eq!(supply_codes(&p), ["no-backflow", "static-high", "static-only"]);
    let part = ChainPart::Device { model: "vacuum-breaker".into() };
    p.supplies[0].chain.push(ChainItem { id: "c1".into(), part });
    assert!(!supply_codes(&p).contains(&"no-backflow"));
    let job = Job::of(&p);
    let high = remedies::of_supply(&job, &assess(&job), &p.supplies[0]).remove(0);
    assert_eq!(high.finding.code(), "static-high");
    high.remedies.iter().for_each(|r| holds(&p, r));
}

#[test]
fn water_that_is_not_known_and_readings_that_scatter_are_told() {
    use crate::plan::{Reading, ReadingKind};
    let mut p = plan(60.0, "spray-12", &[(180, 4)]);
    let running = |gpm: f64, at: f64| Reading {
        kind: ReadingKind::Dynamic { flow: crate::units::Flow::from_gpm(gpm), pressure: psi(at) },
        when: String::new(),
        instrument: String::new(),
        tap: String::new(),
    };
    // q^1.852 is 19.7 and 71.1: K = (14 x 19.7 + 16 x 71.1) / (19.7^2 + 71.1^2) = 0.260, so the curve
    // has 5.1 psi where 14 were read.
    p.supplies[0].readings.extend([running(5.0, 46.0), running(10.0, 44.0)]);
    assert!(supply_codes(&p).contains(&"readings-scatter"));
    p.supplies[0].readings.truncate(1);
    p.supplies[0].readings.extend([running(5.0, 57.8), running(10.0, 52.0)]);
    assert!(!supply_codes(&p).contains(&"readings-scatter"), "2.2 and 8 psi lie on one curve");
    p.supplies[0].readings.clear();
    assert!(supply_codes(&p).contains(&"water-unknown"));
}

#[test]
fn every_check_has_a_name_of_its_own() {
    let mut codes = Check::CODES.to_vec();
    codes.sort_unstable();
    codes.dedup();
    assert_eq!(codes.len(), Check::CODES.len());
    assert!(codes.iter().all(|c| c.chars().all(|c| c.is_ascii_lowercase() || c == '-')));
}

#[test]
fn an_assessment_kept_from_before_is_the_same_as_a_fresh_one() {
    let mut p = plan(60.0, "spray-12", &[(180, 8)]);
    let mut second = group("g2", "rotator-20", &[(180, 5)]);
    second.listed[0].valve = Some("v2".into());
    p.valves.push(valve("v2"));
    p.groups.push(second);
    let job = Job::of(&p);
    let before = assess(&job);
    let edits = [
        Edit::fit("v2", Regulation::Body { set: psi(40.0) }),
        Edit::put(HeadGroup { rise: Length::from_ft(4.0), ..p.groups[0].clone() }),
        Edit::remove::<Valve>("v1"),
    ];
    for edit in edits {
        let (next, _) = job.apply(&edit).unwrap();
        assert_eq!(assess_after(&next, Some(&before)), assess(&next), "{edit:?}");
    }
}
