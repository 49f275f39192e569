use super::*;
use crate::assess::{assess, assess_after};
use crate::catalogue::Catalogue;
use crate::plan::{ChainItem, ChainPart, Edit, Plan, Regulation, apply};
use crate::regulation::compare;
use crate::units::{Length, Pressure};
use crate::zone::assess_zone;
use crate::zone::tests::plan;

fn findings(plan: &Plan) -> Vec<Finding> {
    assess(plan, Catalogue::builtin()).zones.remove(0).findings
}
fn codes(plan: &Plan) -> Vec<&'static str> {
    findings(plan).iter().map(|f| f.code).collect()
}

/// Thirteen heads in a long thin chain: 32 psi at the street.
fn starved() -> Plan {
    let mut p = plan(32.0, "spray-12", &[(180, 13)]);
    p.groups[0].distance = Length::from_ft(120.0);
    p
}

#[test]
fn a_starved_head_is_found_and_each_remedy_gives_what_it_promises() {
    let p = starved();
    let all = findings(&p);
    let f = all
        .iter()
        .find(|f| f.code == "head-starved")
        .expect("the last head starves");
    assert_eq!(f.severity, Severity::Stop);
    assert!(f.remedies.len() >= 2);
    for remedy in &f.remedies {
        let (after, _) = apply(&p, &remedy.edit, Catalogue::builtin()).unwrap();
        let low = assess_zone(&after, &after.valves[0], Catalogue::builtin())
            .unwrap()
            .lowest()
            .nozzle
            .show(p.units);
        assert!(
            remedy.effect.contains(low.trim_end_matches(" psi")),
            "{}: {} but {low}",
            remedy.label,
            remedy.effect
        );
    }
    assert!(
        f.remedies
            .iter()
            .any(|r| r.label.starts_with("Lateral in PVC class 200 1 in"))
    );
}

#[test]
fn towns_under_50_psi_need_no_regulator_and_high_ones_do() {
    let c = Catalogue::builtin();
    let low = plan(35.0, "spray-12", &[(180, 4)]);
    let comparison = compare(&low, &low.valves[0], c).unwrap();
    assert_eq!(comparison.options[comparison.recommended].edit, None);
    let high = plan(80.0, "spray-12", &[(180, 4)]);
    assert!(codes(&high).contains(&"pressure-high"));
    let comparison = compare(&high, &high.valves[0], c).unwrap();
    let best = &comparison.options[comparison.recommended];
    assert!(
        matches!(
            best.edit,
            Some(Edit::FitRegulation {
                regulation: Regulation::Valve { .. },
                ..
            })
        ),
        "{}",
        best.label
    );
    // The module is set so that the heads' mean is nominal.
    let mean = best.zone.heads.iter().map(|h| h.nozzle.psi()).sum::<f64>() / 4.0;
    assert!((mean - 30.0).abs() < 1.0, "{mean}");
}

#[test]
fn slopes_and_many_heads_are_regulated_in_the_body() {
    let mut p = plan(85.0, "rotator-20", &[(180, 8)]);
    p.groups[0].rise = Length::from_ft(12.0);
    let c = compare(&p, &p.valves[0], Catalogue::builtin()).unwrap();
    assert!(
        c.options[c.recommended]
            .label
            .starts_with("In the bodies, 40 psi"),
        "{}",
        c.options[c.recommended].label
    );
}

#[test]
fn a_regulator_cannot_help_a_starved_zone() {
    let p = starved();
    let c = compare(&p, &p.valves[0], Catalogue::builtin()).unwrap();
    assert_eq!(c.options[c.recommended].edit, None);
    assert!(c.why.contains("not a question for a regulator"));
}

#[test]
fn a_regulator_without_room_is_found_and_lowering_it_gives_it_room() {
    let mut p = plan(50.0, "spray-12", &[(180, 6)]);
    p.valves[0].regulation = Regulation::Valve {
        set: Pressure::from_psi(45.0),
    };
    let all = findings(&p);
    let f = all
        .iter()
        .find(|f| f.code == "regulator-no-room")
        .expect("3.5 psi of room");
    let (after, _) = apply(&p, &f.remedies[0].edit, Catalogue::builtin()).unwrap();
    assert!(!codes(&after).contains(&"regulator-no-room"));
}

#[test]
fn a_system_regulator_robs_those_behind_it() {
    let mut p = plan(110.0, "spray-12", &[(180, 6)]);
    let mut second = crate::plan::tests::group("g2", "rotor-3", &[(180, 3)]);
    second.lots[0].valve = Some("v2".into());
    p.valves.push(crate::plan::tests::valve("v2"));
    p.valves[1].regulation = Regulation::Valve {
        set: Pressure::from_psi(90.0),
    };
    p.groups.push(second);
    let c = compare(&p, &p.valves[0], Catalogue::builtin()).unwrap();
    let system = c
        .options
        .iter()
        .find(|o| o.label.starts_with("At the connection"))
        .unwrap();
    assert!(
        system
            .notes
            .iter()
            .any(|n| n == "Robs the regulator of valve 2 of its room"),
        "{:?}",
        system.notes
    );
}

#[test]
fn drip_is_filtered_and_regulated_by_the_houses_school() {
    let mut p = plan(60.0, "dripline-0.6", &[(360, 8)]);
    p.groups[0].row = Some(crate::plan::DripRow {
        emitters: 20,
        emitter_spacing: Length::from_in(12.0),
    });
    p.valves[0].model = "valve-drip-3/4in".into();
    assert_eq!(
        codes(&p),
        ["drip-over-rating", "drip-no-filter", "drip-no-regulator"]
    );
    p.rules.drip = crate::plan::DripSchool::FilterIfDirty;
    assert!(!codes(&p).contains(&"drip-no-filter"));
    p.valves[0].regulation = Regulation::Inline {
        set: Pressure::from_psi(25.0),
    };
    assert_eq!(codes(&p), Vec::<&str>::new());
}

#[test]
fn low_flow_wants_a_low_flow_valve_and_mixed_heads_want_two() {
    let p = plan(35.0, "spray-8", &[(180, 2)]);
    assert!(codes(&p).contains(&"valve-min-flow"));
    let mut p = plan(45.0, "spray-12", &[(180, 6)]);
    let mut second = crate::plan::tests::group("g2", "rotator-20", &[(180, 4)]);
    second.lots[0].valve = Some("v1".into());
    p.groups.push(second);
    let all = findings(&p);
    let f = all.iter().find(|f| f.code == "mixed-never").unwrap();
    let (after, _) = apply(&p, &f.remedies[0].edit, Catalogue::builtin()).unwrap();
    assert_eq!(after.valves.len(), 2);
    assert!(!codes(&after).contains(&"mixed-never"));
}

#[test]
fn drinking_water_without_backflow_protection_stops() {
    let mut p = plan(90.0, "spray-12", &[(180, 4)]);
    let supply = |p: &Plan| {
        assess(p, Catalogue::builtin())
            .supplies
            .remove(0)
            .findings
            .iter()
            .map(|f| f.code)
            .collect::<Vec<_>>()
    };
    assert_eq!(supply(&p), ["no-backflow", "static-high", "static-only"]);
    p.supplies[0].chain.push(ChainItem {
        id: "c1".into(),
        part: ChainPart::Device {
            model: "vacuum-breaker".into(),
        },
    });
    assert!(!supply(&p).contains(&"no-backflow"));
}

#[test]
fn an_assessment_kept_from_before_is_the_same_as_a_fresh_one() {
    let c = Catalogue::builtin();
    let mut p = plan(60.0, "spray-12", &[(180, 8)]);
    let mut second = crate::plan::tests::group("g2", "rotator-20", &[(180, 5)]);
    second.lots[0].valve = Some("v2".into());
    p.valves.push(crate::plan::tests::valve("v2"));
    p.groups.push(second);
    let before = assess(&p, c);
    let edits = [
        Edit::FitRegulation {
            valve: "v2".into(),
            regulation: Regulation::Body {
                set: Pressure::from_psi(40.0),
            },
        },
        Edit::PutGroup {
            group: crate::plan::HeadGroup {
                rise: Length::from_ft(4.0),
                ..p.groups[0].clone()
            },
            at: None,
        },
        Edit::RemoveValve { id: "v1".into() },
    ];
    for edit in edits {
        let (next, _) = apply(&p, &edit, c).unwrap();
        assert_eq!(
            assess_after(&next, Some((&p, &before)), c),
            assess(&next, c),
            "{edit:?}"
        );
    }
}
