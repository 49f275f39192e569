use super::*;
use fenlo_core::assess::assess;
use fenlo_core::catalogue::Catalogue;
use fenlo_core::findings::Check;
use fenlo_core::job::Job;
use fenlo_core::plan::{
    ArcCount, ChainItem, ChainPart, HeadGroup, Plan, Reading, ReadingKind, Regulation, Valve,
};
use fenlo_core::remedies;
use fenlo_core::units::{Length, Pressure, UnitSystem};
use fenlo_core::zone::zone_of;

fn job(psi: f64, nozzle: &str, heads: u32, units: UnitSystem) -> Job {
    let mut plan = Plan::new("Test", units);
    plan.supplies[0].readings.push(Reading {
        kind: ReadingKind::Static { pressure: Pressure::from_psi(psi) },
        when: String::new(),
        instrument: String::new(),
        tap: String::new(),
    });
    plan.valves.push(Valve::new("v1", "Front", "s1"));
    plan.groups.push(HeadGroup {
        listed: vec![ArcCount { arc: 180, count: heads, valve: Some("v1".into()) }],
        ..HeadGroup::new("g1", "Front lawn", nozzle)
    });
    Job::new(plan)
}

#[test]
fn a_starved_head_is_told_in_both_systems_of_units() {
    for (units, unit) in [(UnitSystem::Us, "psi"), (UnitSystem::Metric, "kPa")] {
        let job = job(24.0, "spray-12", 14, units);
        let found = remedies::of_zone(&job, &assess(&job), &job.valves[0]);
        let starved = found.iter().find(|f| f.finding.code() == "head-starved").unwrap();
        let said = finding(&starved.finding, &job);
        let Check::HeadStarved { arrives, .. } = starved.finding.check else {
            unreachable!("its code says so")
        };
        assert!(
            said.text.starts_with(&format!("The weakest head gets {};", arrives.show(units))),
            "{}",
            said.text
        );
        assert!(said.text.matches(unit).count() == 4, "{}", said.text);
        let other = if unit == "psi" { "kPa" } else { "psi" };
        assert!(!said.text.contains(other) && !said.working.result.contains(other));
        for remedy in &starved.remedies {
            assert!(!action(&remedy.action, &job).is_empty());
            assert!(effect(&remedy.effect, units).contains(unit));
        }
    }
}

#[test]
fn the_working_of_every_head_ends_in_the_figure_that_is_shown() {
    let job = job(65.0, "spray-12", 9, UnitSystem::Us);
    let zone = zone_of(&job, &job.valves[0]).unwrap();
    for (i, head) in zone.heads.iter().enumerate() {
        let workings = head_workings(&zone, i, &job);
        let result = |name: &str| workings.iter().find(|w| w.0 == name).map(|w| w.1.result.clone()).unwrap();
        assert_eq!(result("Pressure"), head.nozzle.show(UnitSystem::Us));
        assert_eq!(result("Flow"), head.flow.show(UnitSystem::Us));
        assert_eq!(result("Rate"), head.rate.show(UnitSystem::Us));
        assert!(result("Radius").ends_with(" ft"));
    }
    assert!(head_workings(&zone, 99, &job).is_empty());
    let speed = velocity_working(&zone, &job.rules, job.units);
    assert_eq!(speed.result, zone.velocity.show(UnitSystem::Us));
}

#[test]
fn the_figures_of_a_zone_open_their_arithmetic() {
    let job = job(50.0, "spray-12", 4, UnitSystem::Us);
    let zone = zone_of(&job, &job.valves[0]).unwrap();
    let workings = zone_workings(&zone, UnitSystem::Us);
    let names: Vec<&str> = workings.iter().map(|w| w.0).collect();
    assert_eq!(names, ["Flow", "Pressure", "Rate", "Pressure variation"]);
    assert!(workings.iter().all(|(_, w)| w.with.len() > 1 && !w.result.is_empty() && !w.source.is_empty()));
    // Four half circles at 12 ft by 12 ft are to water 288 ft2.
    assert!(workings[2].1.with.iter().any(|w| w.1 == "288 ft²"), "{:?}", workings[2].1.with);
    let metric = zone_workings(&zone, UnitSystem::Metric);
    assert!(metric[2].1.formula.contains("mm/h") && !metric[2].1.formula.contains("in/h"));
}

#[test]
fn nozzles_are_named_in_the_units_of_the_job() {
    let named = |id: &str, u| nozzle(Catalogue::builtin().nozzle(id).unwrap(), u);
    let metric = |id: &str| named(id, UnitSystem::Metric);
    assert_eq!(named("rotor-6", UnitSystem::Us), "Rotor 6 gpm");
    assert_eq!(metric("rotor-6"), "Rotor 23 L/min");
    assert_eq!(metric("rotor-1.5"), "Rotor 5.7 L/min");
    assert_eq!(metric("spray-12"), "Spray 3.7 m");
    assert_eq!(metric("rotator-short-8"), "Short rotator 2.4 m");
    assert_eq!(metric("dripline-0.6"), "Dripline 2.3 L/h");
    assert_eq!(metric("strip-end"), "End strip 1.2 × 4.6 m");
    for n in &Catalogue::builtin().nozzles {
        let name = nozzle(n, UnitSystem::Metric);
        assert!(!name.contains("ft") && !name.contains("gp"), "{name}");
    }
}

#[test]
fn every_kind_has_the_name_of_its_class() {
    for class in &Catalogue::builtin().classes {
        assert!(!kind(class.kind).is_empty());
    }
}

#[test]
fn the_walk_names_the_parts_of_the_chain() {
    let mut plan = job(80.0, "spray-12", 4, UnitSystem::Us).into_plan();
    let part = |id: &str, part| ChainItem { id: id.into(), part };
    let pipe = |length| ChainPart::Pipe {
        pipe: "copper-l 1in".parse().unwrap(),
        length: Length::from_ft(length),
        rise: Length::ZERO,
    };
    plan.supplies[0].chain = vec![
        part("c1", pipe(40.0)),
        part("c2", ChainPart::Meter { size: "3/4in".into() }),
        part("c3", ChainPart::Device { model: "reduced-pressure".into() }),
        part("c4", pipe(10.0)),
        part("c5", ChainPart::Regulator { set: Pressure::from_psi(60.0) }),
    ];
    plan.valves[0].regulation = Regulation::Body { set: Pressure::from_psi(30.0) };
    let job = Job::new(plan);
    let zone = zone_of(&job, &job.valves[0]).unwrap();
    let names: Vec<String> = zone.walk.iter().map(|s| walk_part(&s.part)).collect();
    let wanted = [
        "Static pressure",
        "Service line",
        "Meter 3/4 in",
        "Reduced pressure",
        "Shared mainline",
        "System regulator",
        "Valve",
        "First section",
        "Body regulator",
    ];
    assert_eq!(names, wanted);
    assert_eq!(walk_note(zone.walk[5].note, job.units), "");
    assert_eq!(walk_note(zone.walk[8].note, job.units), "regulating");
}

#[test]
fn every_method_says_what_limits_it_or_what_it_lacks() {
    let job = job(60.0, "spray-12", 4, UnitSystem::Us);
    let design = &assess(&job).supplies[0].design;
    for m in &design.methods {
        assert!(
            !method_says(&m.says, job.units).is_empty()
                && !method(m.method, &job.supplies[0].water).is_empty()
        );
        for r in &m.rules {
            let working = rule(r, job.units);
            assert!(!working.result.is_empty() && !working.source.is_empty(), "{r:?}");
        }
    }
    // A static pressure alone: what is missing is said, and no flow but the one that the house assumes.
    assert_eq!(design.flow, None);
    assert_eq!(design_working(design, job.units).result, "company default: 10.0 gpm");
    let says: Vec<String> = design.methods.iter().map(|m| method_says(&m.says, job.units)).collect();
    assert!(says[1].starts_with("unknown: read the pressure with water running"), "{says:?}");
}

#[test]
fn an_aim_below_the_best_is_said_with_the_flow() {
    use fenlo_core::water::{Aim, DemandOf, MethodSays};
    let said = |aim| {
        let of = DemandOf::Area("Lawn".into());
        method_says(&MethodSays::Wants(of, Pressure::from_psi(41.0), aim), UnitSystem::Us)
    };
    assert_eq!(said(Aim::Best), "Lawn needs 41.0 psi at the point of connection");
    assert_eq!(said(Aim::BelowBest), "Lawn needs 41.0 psi at the point of connection, below rated pressure");
    assert_eq!(said(Aim::AtLimit), "Lawn needs 41.0 psi at the point of connection, at the minimum");
    let none = MethodSays::CantServe(DemandOf::Area("Lawn".into()), Pressure::from_psi(2.3));
    assert!(method_says(&none, UnitSystem::Us).contains("2.3 psi more needed"));
}

#[test]
fn inside_a_sentence_only_the_first_letter_is_small() {
    assert_eq!(inside("Module set 2.3 kPa"), "module set 2.3 kPa");
    assert_eq!(inside("Über L/min"), "über L/min");
    assert_eq!(inside(""), "");
}

/// Whole jobs with something wrong of every kind, as core's tests have them.
fn cases() -> Vec<fenlo_core::plan::Plan> {
    let dir = concat!(env!("CARGO_MANIFEST_DIR"), "/../core/tests/cases");
    let files = std::fs::read_dir(dir).unwrap().map(|f| f.unwrap().path());
    let json = files.filter(|f| f.extension().is_some_and(|e| e == "json"));
    json.map(|file| {
        let text = std::fs::read_to_string(file).unwrap();
        let mut case: serde_json::Value = serde_json::from_str(&text).unwrap();
        serde_json::from_value(case["plan"].take()).unwrap()
    })
    .collect()
}

#[test]
fn every_finding_and_remedy_of_the_cases_has_its_words_in_the_jobs_units() {
    let mut said_of = std::collections::BTreeSet::new();
    for plan in cases() {
        for units in [UnitSystem::Us, UnitSystem::Metric, UnitSystem::MetricBar] {
            let mut plan = plan.clone();
            plan.units = units;
            let job = fenlo_core::job::Job::new(plan);
            let known = assess(&job);
            let zones = job.valves.iter().flat_map(|v| remedies::of_zone(&job, &known, v));
            let all = zones.chain(job.supplies.iter().flat_map(|s| remedies::of_supply(&job, &known, s)));
            for found in all {
                let said = finding(&found.finding, &job);
                assert!(!said.title.is_empty() && !said.working.result.is_empty(), "{said:?}");
                let mut text = said.text.clone();
                text.extend(said.working.with.iter().map(|w| format!(" {}", w.1)));
                for remedy in &found.remedies {
                    assert!(!action(&remedy.action, &job).is_empty());
                    text += &gives(remedy, &job);
                }
                let alien: &[&str] = match units {
                    UnitSystem::Us => &[" kPa", " bar", " L/min", " m/s"],
                    UnitSystem::Metric => &[" psi", " gpm", " bar", " ft/s"],
                    UnitSystem::MetricBar => &[" psi", " gpm", " kPa", " ft/s"],
                };
                for unit in alien {
                    assert!(!text.contains(unit), "{}: ‘{unit}’ in: {text}", found.finding.code());
                }
                said_of.insert(found.finding.code());
            }
        }
    }
    assert!(said_of.len() >= 28, "only {said_of:?}");
}

#[test]
fn findings_of_pipe_are_told_in_both_systems_of_units() {
    use fenlo_core::earthwork::BadPlace;
    use fenlo_core::findings::{Finding, Severity};
    let m = Length::from_m(3.0);
    let checks = [
        Check::PipeUnder { leg: "p1".into(), what: "House".into(), length: m },
        Check::PipeThroughRoots { leg: "p1".into(), what: "Oak".into(), length: m },
        Check::UnsleevedCrossing { leg: "p1".into(), what: "Drive".into(), length: m },
        Check::AboveFrost { leg: "p1".into(), depth: m, frost: m },
        Check::OffMain {},
        Check::HeadOffLateral { heads: 2, of: 9 },
        Check::LateralLong { pipe: m * 2.0, follows: m * 0.1, counts: m * 1.9, needs: m },
        Check::BoxMisplaced { name: "Box 1".into(), why: BadPlace::Low },
        Check::BoxFull { place: "b1".into(), name: "Box 1".into(), valves: 4, filters: 2, most: 5 },
        Check::JointUnmade { at: "v1".into(), wanted: "tee of 2 in and 1 in".into() },
    ];
    for (units, own, other) in [(UnitSystem::Us, "ft", " m "), (UnitSystem::Metric, " m", " ft")] {
        let job = job(60.0, "spray-12", 3, units);
        for check in checks.clone() {
            let finding = Finding { check, severity: Severity::Watch };
            let said = crate::finding(&finding, &job);
            assert!(
                !said.title.is_empty() && said.text.len() > 30 && !said.working.result.is_empty(),
                "{said:?}"
            );
            assert!(!said.text.contains(other), "{}", said.text);
            if said.text.contains("runs") {
                assert!(said.text.contains(own), "{}", said.text);
            }
        }
    }
}

#[test]
fn rows_with_shut_offs_take_turns() {
    use fenlo_core::units::Flow;
    let gpm = Flow::from_gpm;
    // Eight rows of 0.83 gpm on 4 gpm: four at a time, two turns.
    assert_eq!(crate::rows_at_once(8, gpm(0.83), gpm(4.0)), (4, 2));
    assert_eq!(crate::rows_at_once(3, gpm(0.83), gpm(4.0)), (3, 1));
    assert_eq!(
        crate::rows_at_once(5, gpm(6.0), gpm(4.0)),
        (1, 5),
        "one at least: the zone tells what is missing"
    );
}

#[test]
fn every_fault_of_an_assembly_is_said_in_the_units_of_the_job() {
    use fenlo_core::assembly::AssemblyFault as F;
    use fenlo_core::units::{Flow, Length, Pressure, UnitSystem};
    let (psi, inches) = (Pressure::from_psi, Length::from_in);
    let end = |text: &str| text.parse().unwrap();
    let all = [
        F::BreakerLow { stands: inches(4.0), wanted: inches(10.0) },
        F::EndsApart { outlet: end("thread 3/4in f"), inlet: end("hose f") },
        F::NoRoomToOpen { wanted: inches(5.0), there: inches(1.0) },
        F::TooLong { length: inches(20.0), room: inches(12.0) },
        F::OutsideBand { least: None, most: Some(Flow::from_gpm(8.0)), flow: Flow::from_gpm(9.0) },
        F::NoPressureRoom { inlet: psi(30.0), wanted: psi(35.0) },
        F::OverRating { stands: psi(70.0), rating: psi(50.0) },
        F::NoSupport { parts: 7, length: inches(24.0) },
    ];
    for fault in &all {
        let (title, metric) = crate::assembly_fault(fault, UnitSystem::Metric);
        let (same, us) = crate::assembly_fault(fault, UnitSystem::Us);
        assert_eq!(title, same);
        assert!(!metric.contains(" psi") && !metric.contains(" gpm"), "{metric}");
        assert!(!us.contains("kPa") && !us.contains("L/min"), "{us}");
        assert!(us.ends_with('.') && metric.ends_with('.'), "{us}");
    }
}

#[test]
fn a_cut_list_puts_like_rows_together_and_the_longest_first() {
    use fenlo_core::drip::{DripWish, design};
    use fenlo_core::job::Job;
    use fenlo_core::plan::Plan;
    use fenlo_core::site::{Area, ObjectKind, Outline, Point, Shape, SiteObject};
    use fenlo_core::units::UnitSystem;
    let mut plan = Plan::new("Bed", UnitSystem::Us);
    // 20 x 3 ft: three rows of 19 ft 6 in, the middle one staggered.
    let (w, h) = (20.0 * 0.3048, 3.0 * 0.3048);
    let corners = [(0.0, 0.0), (w, 0.0), (w, h), (0.0, h)].map(|(x, y)| Point::new(x, y));
    plan.site.objects.push(SiteObject {
        id: "a1".into(),
        name: "Bed".into(),
        what: ObjectKind::Area(Area {
            kind: fenlo_core::site::AreaKind::Bed,
            shape: Shape::plain(Outline::straight(&corners)),
            ..Area::default()
        }),
    });
    let made = design(&Job::new(plan), "a1", &DripWish::default(), None).unwrap();
    let list = crate::cut_list(&made.parts, UnitSystem::Us);
    let short: Vec<(usize, &str, &str)> = list.iter().map(|r| (r.0, r.1.as_str(), r.2.as_str())).collect();
    assert_eq!(short, [(2, "19'6\"", "9\""), (1, "19'6\"", "1'6\"")]);
}

#[test]
fn a_saving_is_said_with_its_money_and_when_it_is_paid_back() {
    use fenlo_core::catalogue::Kind;
    use fenlo_core::pricing::{Against, Saving};
    use fenlo_core::units::Volume;
    let said = |gal: f64, money: Option<i64>, more: Option<i64>| {
        let one = Saving {
            against: Kind::Spray,
            because: Against::Cheapest,
            water: Volume::from_gal(gal),
            of: Volume::from_gal(60_000.0),
            money: money.map(Into::into),
            more: more.map(Into::into),
        };
        saving(&one, UnitSystem::Us, "USD")
    };
    assert_eq!(
        said(12_300.0, Some(92), Some(140)),
        "12,000 gal and $92 less per year, $140 more to install: payback 1.5 years"
    );
    assert_eq!(
        said(-900.0, Some(-20), Some(-10)),
        "900 gal and $20 more per year, $10 less to install: higher water cost uses up the saving in 0.5 \
            years"
    );
    assert_eq!(said(5000.0, None, None), "5,000 gal less per year");
    assert_eq!(
        said(5000.0, Some(0), Some(80)),
        "5,000 gal less per year, $80 more to install: does not pay back"
    );
    assert_eq!(said(5000.0, Some(30), Some(0)), "5,000 gal and $30 less per year, same installed cost");
    assert_eq!(said(-500.0, Some(-3), Some(8)), "same water use, $8 more to install");
    let metric = Saving {
        against: Kind::RotorMid,
        because: Against::Planned,
        water: Volume::from_litres(31_240.0),
        of: Volume::from_litres(90_000.0),
        money: None,
        more: None,
    };
    assert_eq!(saving(&metric, UnitSystem::Metric, "EUR"), "31 m³ less per year");
    assert!(said(5000.0, Some(1), Some(100)).ends_with("payback over 30 years"));
}

/// Stakes on a tap, by what so many of them keep of their nominal pressure on half-inch and three-quarter
/// tube.
fn throws_of(now: usize, shares: [&[f64]; 2]) -> fenlo_core::zone::Throws {
    use fenlo_core::units::{Flow, Length, Pressure};
    use fenlo_core::zone::{OnPipe, Open, Throws};
    let open = |(i, share): (usize, &f64)| Open {
        heads: i + 1,
        flow: Flow::from_gpm(3.0),
        lowest: Pressure::from_psi(40.0 * share),
        shortest: Length::from_ft(30.0),
        farthest: Length::from_ft(32.0),
        share: *share,
        works: *share >= 0.75,
    };
    let on = |(pipe, shares): (&str, &[f64])| OnPipe {
        pipe: pipe.parse().unwrap(),
        open: shares.iter().enumerate().map(open).collect(),
    };
    let sizes = ["drip-poly 1/2in", "drip-poly 3/4in"].into_iter().zip(shares).map(on).collect();
    Throws { sizes, now }
}

#[test]
fn a_larger_tube_is_named_only_where_it_serves_all() {
    let job = Job::new(Plan::new("Test", UnitSystem::Us));
    let says = |now, shares| throws_verdict(&job, &throws_of(now, shares)).unwrap();
    assert_eq!(
        says(0, [&[1.2, 0.8], &[1.2, 0.95]]),
        "Poly drip tubing 1/2 in supplies 1 of 2 heads at once; Poly drip tubing 3/4 in supplies all 2. Use \
            that size."
    );
    assert_eq!(
        says(1, [&[1.2, 0.8], &[1.2, 0.95]]),
        "Poly drip tubing 3/4 in supplies all 2 heads at once at full radius. Poly drip tubing 1/2 in would supply 1 of \
         2 heads."
    );
    assert_eq!(
        says(1, [&[1.2, 1.0], &[1.2, 1.1]]),
        "Poly drip tubing 3/4 in supplies all 2 heads at once at full radius. Poly drip tubing 1/2 in would \
            also work."
    );
    assert_eq!(
        says(0, [&[1.2, 0.7, 0.5], &[1.2, 0.95, 0.7]]),
        "Poly drip tubing 1/2 in supplies 1 of 3 heads at once; Poly drip tubing 3/4 in supplies 2 of 3 heads. The \
         pressure is lost before the tubing. Run 2 at a time, each group on its own station, or use smaller nozzles."
    );
    assert_eq!(
        says(1, [&[0.7, 0.5], &[0.8, 0.6]]),
        "Poly drip tubing 3/4 in supplies no head at once. Not even one head reaches its radius: the supply is too weak \
         for this nozzle. Use smaller nozzles."
    );
}
