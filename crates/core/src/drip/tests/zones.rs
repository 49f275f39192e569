//! Drip on valves: its parts in the line or at every bed, its inlets split, piped and edited like heads.

use super::*;
use crate::assembly::Start;
use crate::assess::{assess, drip_report};
use crate::drip::{DripWish, design, inlet_flows};
use crate::findings::Check;
use crate::piping::{Scope as Routing, routes};
use crate::plan::{Edit, PartIs, Regulation};
use crate::site::{ObjectKind, PlaceKind, PlaceMark, SiteObject};
use crate::zone::{WalkPart, inputs_of, pipe_volume, zone_of};
use crate::zoning::{self, Scope};

/// Two beds, 20 x 3 ft each, on one valve with 60 psi at rest before it.
fn two_beds() -> Plan {
    let mut plan = bed(rect(0.0, 0.0, ft(20.0), ft(3.0)), "dripline-0.6", 12.0, 15.0, Point::new(0.0, 0.0));
    plan.site.objects.push(lawn("a2", rect(ft(30.0), 0.0, ft(20.0), ft(3.0))));
    let mut second = plan.groups[0].clone();
    (second.id, second.area) = ("g2".into(), Some("a2".into()));
    second.drawn = vec![inlet("h2", Point::new(ft(30.0), 0.0))];
    plan.groups.push(second);
    plan.supplies[0].readings[0].kind = ReadingKind::Static { pressure: Pressure::from_psi(60.0) };
    plan.valves[0].model = "valve-drip-3/4in".into();
    plan.valves[0].filter = Some("filter-3/4in".into());
    plan.valves[0].regulation = Regulation::Inline { set: Pressure::from_psi(25.0) };
    plan
}
fn parted(start: Start) -> Plan {
    let mut plan = two_beds();
    plan.valves[0] = start.fit(&plan.valves[0], Flow::from_gpm(1.1), Length::ZERO);
    plan
}

#[test]
fn regulators_at_every_bed_hold_there_and_the_pipe_before_them_stands_at_the_static() {
    // 25 psi at the valve: both beds have a little less. At the stub-ups: each bed has 25, the lateral
    // nearly 58.
    let at_valve = zone_of(&Job::of(&parted(Start::Box)), &two_beds().valves[0]).unwrap();
    let plan = parted(Start::StubUps);
    let at_beds = zone_of(&Job::of(&plan), &plan.valves[0]).unwrap();
    assert!(at_valve.lateral_inlet.psi() < 26.0 && at_beds.lateral_inlet.psi() > 55.0);
    for zone in [&at_valve, &at_beds] {
        assert_eq!(zone.heads.len(), 2);
        assert!(zone.heads.iter().all(|h| (22.0..26.0).contains(&h.highest.psi())), "{:?}", zone.heads);
        // 57 emitters each.
        near(zone.flow.gpm(), 1.14, 1e-6);
    }
    let model = crate::zone::zone_model(&inputs_of(&Job::of(&plan), &plan.valves[0]).unwrap());
    assert_eq!(model.regulator_links.len(), 2, "one at every bed");
    // Without its place in the list the regulator still stands at the end of what is no tube.
    let mut bare = parted(Start::Box);
    bare.valves[0].assembly.parts.retain(|p| p.is != PartIs::Regulator);
    near(
        zone_of(&Job::of(&bare), &bare.valves[0]).unwrap().lateral_inlet.psi(),
        at_valve.lateral_inlet.psi(),
        0.01,
    );
}

#[test]
fn parts_of_an_assembly_cost_what_they_cost_in_the_walk() {
    let plain = two_beds();
    let plan = parted(Start::HoseBib);
    let walk = |plan: &Plan| zone_of(&Job::of(plan), &plan.valves[0]).unwrap().walk;
    let named: Vec<String> = (walk(&plan).iter())
        .filter_map(|s| match &s.part {
            WalkPart::Part(label) => Some(label.clone()),
            _ => None,
        })
        .collect();
    assert!(named.iter().any(|l| l.contains("Hose Y")) && named.iter().any(|l| l.contains("vacuum breaker")));
    assert!(walk(&plain).iter().all(|s| !matches!(s.part, WalkPart::Part(_))));
    // The breaker takes 1 psi at the least; timer, splitter, arrester and filter next to nothing at 1.14 gpm.
    let zone = zone_of(&Job::of(&plan), &plan.valves[0]).unwrap();
    let before = zone.regulator.unwrap().inlet.psi();
    assert!((58.5..59.0).contains(&before), "{before}");
}

#[test]
fn a_broken_assembly_is_a_finding_of_its_valve_and_a_sound_one_is_none() {
    let plan = parted(Start::HoseBib);
    let codes = |plan: &Plan| -> Vec<&'static str> {
        assess(&Job::of(plan)).zones[0].findings.iter().map(|f| f.code()).collect()
    };
    assert!(!codes(&plan).contains(&"assembly"), "{:?}", codes(&plan));
    let mut broken = plan.clone();
    broken.valves[0].assembly.parts.swap(3, 4);
    let known = assess(&Job::of(&broken));
    let found = known.zones[0].findings.iter().find(|f| f.code() == "assembly").unwrap();
    assert!(matches!(&found.check, Check::Assembly { part, .. } if part.contains("timer")), "{found:?}");
    // A breaker among the parts protects the drinking water; the shared chain need have none.
    let supply = |plan: &Plan| -> Vec<&'static str> {
        assess(&Job::of(plan)).supplies[0].findings.iter().map(|f| f.code()).collect()
    };
    assert!(supply(&two_beds()).contains(&"no-backflow"));
    assert!(!supply(&plan).contains(&"no-backflow"));
}

#[test]
fn inlets_are_split_onto_valves_and_piped_like_heads() {
    let mut plan = two_beds();
    plan.valves.clear();
    plan.groups.iter_mut().for_each(|g| g.drawn[0].valve = None);
    for (id, kind, x) in [("p1", PlaceKind::Water, -3.0), ("p2", PlaceKind::ValveBox, 7.5)] {
        plan.site.objects.push(SiteObject {
            id: id.into(),
            name: String::new(),
            what: ObjectKind::Place(PlaceMark { kind, at: Point::new(x, -2.0), supply: Some("s1".into()) }),
        });
    }
    let job = Job::of(&plan);
    assert_eq!(inlet_flows(&job, &job.groups[0]).unwrap().len(), 1);
    let split = zoning::propose(&job, &assess(&job).water(), Scope::All);
    let (job, _) = job.apply(&split.edit.unwrap()).unwrap();
    assert_eq!(job.valves.len(), 1, "both beds share a valve");
    assert!(job.unassigned().is_empty());
    let routed = routes(&job, Routing::All);
    assert!(routed.faults.is_empty(), "{:?}", routed.faults);
    let (job, _) = job.apply(&routed.edit.unwrap()).unwrap();
    let ends: Vec<&str> =
        job.piping.lateral(&job.valves[0].id).flat_map(|l| [l.from.as_str(), l.to.as_str()]).collect();
    assert!(ends.contains(&"h1") && ends.contains(&"h2"), "{ends:?}");
    let known = assess(&job);
    let report = drip_report(&job, &known.zones[0]).unwrap();
    assert_eq!((report.rows, report.emitters, report.laid.len()), (6, 114, 2));
    near(report.tubing.ft(), 117.0, 1e-6);
    near(report.longest_row.ft(), 19.5, 1e-6);
    // 231.1 x 0.6 / (15 x 12).
    near(report.rate.mmph() / 25.4, 231.1 * 0.6 / 180.0, 0.002);
    assert!(report.lowest <= report.highest && report.flush.is_some());
}

#[test]
fn what_is_wished_is_laid_and_wished_again_from_what_is_there() {
    let job = Job::of(&two_beds());
    let wish = DripWish {
        nozzle: Some("dripline-0.9".into()),
        emitter_spacing: Some(Length::from_in(9.0)),
        row_spacing: Some(Length::from_in(10.0)),
        edge: Some(Length::from_in(4.0)),
        depth: Some(Length::from_in(4.0)),
        ends: Some(crate::plan::RowEnds::Snake),
        heading: Some(90.0),
        ..DripWish::default()
    };
    let made = design(&job, "a1", &wish, None).unwrap();
    let (after, back) = job.apply(&made.edit).unwrap();
    let group = after.group("g1").unwrap();
    let again = DripWish::like(group);
    assert_eq!((&again.nozzle, again.ends, again.heading), (&wish.nozzle, wish.ends, wish.heading));
    assert_eq!(design(&after, "a1", &again, None).unwrap().group, *group, "nothing is moved by asking again");
    assert_eq!(group.drawn[0].valve.as_deref(), Some("v1"), "it stays on its valve");
    assert_eq!(after.apply(&back).unwrap().0, job);
    // The whole zone again, as one edit, and no other group of the area beside it.
    assert_eq!(after.groups.iter().filter(|g| g.area.as_deref() == Some("a1")).count(), 1);
    let _: Edit = made.edit;
}

#[test]
fn pipes_hold_what_a_hand_reckons() {
    // 117 ft of 0.560 in tube, 5 ft of 0.824 in header and the feeds; the legs to both beds in 0.824 in.
    let plan = two_beds();
    let job = Job::of(&plan);
    let gal = pipe_volume(&inputs_of(&job, &plan.valves[0]).unwrap()).gal();
    let per_ft = |inches: f64| std::f64::consts::PI / 4.0 * inches * inches * 12.0 / 231.0;
    let tube = 117.0 * per_ft(0.560);
    assert!(gal > tube + 5.0 * per_ft(0.824), "{gal}");
    // The legs are at most the way from one bed to the other and the typed 20 ft.
    assert!(gal < tube + (10.0 + 20.0 + 60.0) * per_ft(0.824), "{gal}");
}

#[test]
fn metric_gardens_are_laid_in_whole_centimetres() {
    let mut plan = two_beds();
    plan.units = UnitSystem::Metric;
    plan.groups.clear();
    let rows_of = |plan: &Plan| {
        let made = design(&Job::of(plan), "a1", &DripWish::default(), None).unwrap();
        let Some(DripLaying::Rows(rows)) = made.group.drip.clone() else { panic!("rows") };
        (rows.emitter_spacing.m(), made.group.spacing.m(), rows.edge.m(), rows.depth.m())
    };
    // A lawn on loam: emitters every 12 in, rows 16 in apart, 3 in off the edge, 4 in deep.
    assert_eq!(rows_of(&plan), (0.30, 0.40, 0.08, 0.10));
    plan.units = UnitSystem::Us;
    let (emitters, rows, edge, depth) = rows_of(&plan);
    for (metres, inches) in [(emitters, 12.0), (rows, 16.0), (edge, 3.0), (depth, 4.0)] {
        near(metres / 0.0254, inches, 1e-9);
    }
}
