use super::*;
use crate::assess::assess;
use crate::findings::{Weight, reasons_apart};
use crate::job::Job;
use crate::job::tests::apply;
use crate::plan::tests::group;
use crate::plan::{Exposure, LegOf, PipeLeg, Plan, Plants, Reading, ReadingKind, Soil};
use crate::progress::Progress;
use crate::site::Point;
use crate::units::{Flow, Length, Pressure, UnitSystem};
use crate::zone::zone_of;
use proptest::prelude::*;

fn empty() -> Job {
    Job::new(Plan::new("Test", UnitSystem::Us))
}

fn weight(change: impl FnOnce(&mut crate::plan::HeadGroup)) -> Option<Weight> {
    let a = group("g1", "spray-12", &[(180, 4)]);
    let mut b = group("g2", "spray-12", &[(180, 4)]);
    change(&mut b);
    reasons_apart(&empty(), &a, &b).iter().map(|r| r.weight).max()
}

#[test]
fn what_may_share_a_valve() {
    assert_eq!(weight(|_| {}), None);
    assert_eq!(weight(|g| g.nozzle = "dripline-0.6".into()), Some(Weight::Never));
    assert_eq!(weight(|g| g.nozzle = "rotator-20".into()), Some(Weight::Never));
    assert_eq!(weight(|g| g.plants = Plants::Bed), Some(Weight::Unless));
    assert_eq!(weight(|g| g.exposure = Exposure::Shade), Some(Weight::Unless));
    assert_eq!(weight(|g| g.exposure = Exposure::PartShade), None);
    assert_eq!(weight(|g| g.slope_percent = 12.0), Some(Weight::Unless));
    assert_eq!(weight(|g| g.rise = Length::from_ft(6.0)), Some(Weight::Unless));
    // Loam with sand may share; sand with clay may not.
    assert_eq!(weight(|g| g.soil = Soil::Sand), None);
    // The same nozzles at 10 ft instead of 12 give 1.44 times the rate; at 9 ft 1.78 times.
    assert_eq!(weight(|g| g.spacing = Length::from_ft(10.0)), Some(Weight::Unless));
    assert_eq!(weight(|g| g.spacing = Length::from_ft(9.0)), Some(Weight::Never));
}

#[test]
fn standard_rotators_of_all_radii_share_and_short_ones_do_not() {
    let at = |nozzle: &str, ft: f64| {
        let mut g = group(nozzle, nozzle, &[(180, 4)]);
        g.spacing = Length::from_ft(ft);
        g
    };
    assert!(reasons_apart(&empty(), &at("rotator-14", 14.0), &at("rotator-30", 30.0)).is_empty());
    // The ends of a row of strips and what stands between them are matched: 0.61 gpm on half a spacing, 1.21 on one.
    for between in ["strip-side", "strip-centre"] {
        let apart = reasons_apart(&empty(), &at("strip-end", 15.0), &at(between, 15.0));
        assert!(apart.is_empty(), "{between}: {apart:?}");
    }
    // Turned down they put as much on less ground: those of 20 ft at 15 beside those of 14 ft share a valve still.
    let turned = |to: f64| {
        let mut g = at("rotator-20", 20.0);
        g.listed.clear();
        g.drawn = (0..4)
            .map(|i| crate::plan::DrawnHead {
                id: format!("h{i}"),
                at: Point::new(f64::from(i) * 4.5, 0.0),
                arc: 180,
                facing: 90.0,
                radius: Some(Length::from_ft(to)),
                valve: None,
                locked: false,
            })
            .collect();
        g
    };
    for to in [13.0, 15.0, 18.0] {
        let apart = reasons_apart(&empty(), &at("rotator-14", 14.0), &turned(to));
        assert!(apart.is_empty(), "{to} ft: {apart:?}");
    }
    assert!(
        reasons_apart(&empty(), &at("rotator-14", 14.0), &at("rotator-short-12", 12.0))
            .iter()
            .any(|r| r.weight == Weight::Never)
    );
}

fn job(psi: f64, groups: &[(&str, u32)]) -> Plan {
    let mut plan = Plan::new("Test", UnitSystem::Us);
    plan.supplies[0].readings.push(Reading {
        kind: ReadingKind::Static { pressure: Pressure::from_psi(psi) },
        when: String::new(),
        instrument: String::new(),
        tap: String::new(),
    });
    plan.supplies[0].chain.push(crate::plan::ChainItem {
        id: "c1".into(),
        part: crate::plan::ChainPart::Meter { size: "3/4in".into() },
    });
    for (i, (nozzle, n)) in groups.iter().enumerate() {
        let arc = if nozzle.starts_with("bubbler") { 360 } else { 180 };
        let mut g = group(&format!("g{}", i + 1), nozzle, &[(arc, *n)]);
        g.pipe = "class-200 1in".parse().unwrap();
        plan.groups.push(g);
    }
    plan
}

fn split(plan: &Plan) -> (Plan, Proposal) {
    let proposal = propose(&Job::of(plan), &assess(&Job::of(plan)).water(), Scope::All);
    let next = proposal.edit.as_ref().map_or_else(|| plan.clone(), |e| apply(plan, e).unwrap().0);
    (next, proposal)
}

#[test]
fn a_split_that_is_watched_is_the_same_and_one_that_is_stopped_solves_nothing() {
    let job = Job::of(&job(65.0, &[("spray-12", 26), ("rotator-20", 6)]));
    let water = assess(&job).water();
    let progress = Progress::default();
    let watched = propose_watched(&job, &water, Scope::All, &progress);
    assert_eq!(watched, propose(&job, &water, Scope::All));
    // Every zone is put together and solved: two steps each. Two valves of sprays and one of rotators at the least.
    let (done, of) = progress.now();
    assert!(done == of && of >= 2 * 3 && of % 2 == 0, "{done} of {of}");
    let stopped = Progress::default();
    stopped.stop();
    let nothing = propose_watched(&job, &water, Scope::All, &stopped);
    assert_eq!((nothing.valves, stopped.now()), (0, (0, 0)));
}

#[test]
fn a_large_group_is_split_evenly_and_kinds_are_kept_apart() {
    // 26 half circles of 1.195 gpm are 31 gpm nominal: two valves of the 17.8 gpm design flow once regulated.
    let plan = job(65.0, &[("spray-12", 26), ("rotator-20", 6)]);
    let (next, proposal) = split(&plan);
    assert_eq!((proposal.valves, next.valves.len()), (3, 3));
    let on: Vec<usize> = next.valves.iter().map(|v| next.groups[0].heads_on(Some(&v.id)).len()).collect();
    assert_eq!(on, [13, 13, 0]);
    assert_eq!(lower_bound(&Job::of(&plan), &assess(&Job::of(&plan)).water()).valves, 3);
    assert!(next.unassigned().is_empty());
}

#[test]
fn locked_valves_stay_as_they_are() {
    let (mut next, _) = split(&job(50.0, &[("spray-12", 26)]));
    next.valves[0].locked = true;
    let kept = next.groups[0].heads_on(Some(&next.valves[0].id));
    let (again, _) = split(&next);
    assert_eq!(again.groups[0].heads_on(Some(&next.valves[0].id)), kept);
}

#[test]
fn a_head_that_wants_more_than_there_is_still_gets_a_valve() {
    // 55.5 psi leave 1.4 gpm of design flow; one rotor takes 2.
    let (next, proposal) = split(&job(55.539_324_344_241_68, &[("rotor-2", 1)]));
    assert_eq!((proposal.valves, next.unassigned().len()), (1, 0));
}

#[test]
fn where_no_water_is_left_at_their_pressure_heads_are_not_strewn_over_valves() {
    // Sprays of 1.2 gpm where a tenth of a gallon is left at what they want: one valve, and it is said.
    let plan = Job::of(&job(20.0, &[("spray-12", 6)]));
    let hopeless = propose(&plan, &gives(0.1), Scope::All);
    assert_eq!((hopeless.valves, hopeless.hopeless.len()), (1, 1));
    // A head that takes a little more than there is gets a valve of its own, as ever.
    let tight = propose(&Job::of(&job(60.0, &[("spray-12", 6)])), &gives(1.0), Scope::All);
    assert_eq!((tight.valves, tight.hopeless.len()), (6, 0));
    let enough = propose(&Job::of(&job(60.0, &[("spray-12", 6)])), &gives(12.0), Scope::All);
    assert_eq!((enough.valves, enough.hopeless.len()), (1, 0));
}

#[test]
fn where_a_head_alone_starves_more_valves_are_no_help() {
    // 14 psi at the tap can't be 20 at a nozzle.
    let weak = Job::of(&job(14.0, &[("spray-12", 6)]));
    let split = propose(&weak, &assess(&weak).water(), Scope::All);
    let [Hopeless { why: NoHope::Starves { gets, needs }, .. }] = split.hopeless[..] else {
        panic!("{:?}", split.hopeless)
    };
    assert_eq!(split.valves, 1);
    assert!((needs.psi() - 20.0).abs() < 0.01 && gets.psi() > 10.0 && gets.psi() < 14.0);
    // At 23 a head works, below what it likes best.
    let few = Job::of(&job(23.0, &[("spray-12", 6)]));
    let split = propose(&few, &assess(&few).water(), Scope::All);
    assert!(split.hopeless.is_empty());
    // At 50 psi nobody speaks of it.
    let sound = Job::of(&job(50.0, &[("spray-12", 6)]));
    let split = propose(&sound, &assess(&sound).water(), Scope::All);
    assert_eq!((split.valves, split.hopeless.len()), (1, 0));
}

/// The plan's connection, of which no more is known than what a valve may take.
fn gives(gpm: f64) -> [Water; 1] {
    [Water { supply: "s1".into(), limit: Some(Flow::from_gpm(gpm)), point: None }]
}

#[test]
fn the_bound_is_never_more_than_there_are_heads() {
    // One rotor of 2 gpm where 1.5 gpm may run: one valve, though 2 / 1.5 rounds up to two.
    let plan = job(60.0, &[("rotor-2", 1)]);
    assert_eq!(lower_bound(&Job::of(&plan), &gives(1.5)).valves, 1);
    let plan = job(60.0, &[("rotor-2", 3)]);
    assert_eq!(lower_bound(&Job::of(&plan), &gives(2.5)).valves, 3);
}

const SOME_NOZZLES: [&str; 5] = ["spray-12", "spray-15", "rotator-20", "rotor-2", "bubbler-0.5"];

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]
    #[test]
    fn no_proposal_exceeds_the_design_flow_and_every_head_gets_a_valve(
        psi in 45.0..95.0f64,
        counts in prop::collection::vec((prop::sample::select(SOME_NOZZLES.to_vec()), 1..30u32), 1..4),
    ) {
        let plan = job(psi, &counts);
        let (next, proposal) = split(&plan);
        prop_assert!(next.unassigned().is_empty());
        prop_assert_eq!(proposal.valves, next.valves.len());
        prop_assert_eq!(&split(&plan).0, &next, "the same plan gives the same proposal");
        let design = assess(&Job::of(&plan)).supplies[0].design.flow.unwrap();
        for v in &next.valves {
            let z = zone_of(&Job::of(&next), v).unwrap();
            prop_assert!(z.flow <= design * 1.000_001 || z.heads.len() == 1, "{} of {}", z.flow.gpm(), design.gpm());
        }
        prop_assert!(next.valves.len() >= lower_bound(&Job::of(&plan), &assess(&Job::of(&plan)).water()).valves);
    }
}

#[test]
fn a_split_over_two_connections_keeps_each_area_on_its_own_and_within_its_flow() {
    // 16 half circles of 1.2 gpm at the meter, where 10 gpm may run, and as many behind the house,
    // where 5 may: by hand two valves and four.
    let mut plan = job(50.0, &[("spray-12", 16), ("spray-12", 16)]);
    let mut back = crate::plan::Supply { id: "s2".into(), ..plan.supplies[0].clone() };
    back.chain[0].id = "c2".into();
    plan.supplies.push(back);
    for (i, supply) in ["s1", "s2"].into_iter().enumerate() {
        let id = format!("v{}", i + 1);
        plan.valves.push(crate::plan::Valve::new(&id, "Rough", supply));
        plan.groups[i].listed[0].valve = Some(id);
    }
    let flows = [("s1".to_owned(), 10.0), ("s2".to_owned(), 5.0)];
    let flows = flows.map(|(id, gpm)| (id, Some(Flow::from_gpm(gpm))));
    let water = flows.clone().map(|(supply, limit)| Water { supply, limit, point: None });
    let proposal = propose(&Job::of(&plan), &water, Scope::All);
    let next = apply(&plan, &proposal.edit.expect("there are heads to split")).unwrap().0;
    assert!(next.unassigned().is_empty());
    let mut valves = [0, 0];
    for valve in &next.valves {
        let at = usize::from(valve.supply == "s2");
        valves[at] += 1;
        let zone = crate::zone::zone_of(&Job::of(&next), valve).unwrap();
        assert!(zone.flow <= flows[at].1.unwrap() * 1.000_001, "{}: {:?}", valve.name, zone.flow);
        let other = &next.groups[1 - at];
        assert!(other.heads_on(Some(&valve.id)).is_empty(), "{} went over", other.name);
    }
    assert_eq!(valves, [2, 4]);
}

#[test]
fn an_area_that_comes_later_keeps_flow_stations_and_wire_back_until_heads_stand_on_it() {
    use crate::site::tests::{lawn, rect};
    let mut p = crate::zone::tests::plan(60.0, "spray-12", &[(180, 6)]);
    // 60 by 40 ft for rotators: 2,400 ft2 at 0.45 in/h or so are 11 gpm.
    let mut ground = lawn("a1", rect(30.0, 0.0, 18.288, 12.192));
    let crate::site::ObjectKind::Area(area) = &mut ground.what else {
        panic!("a lawn is an area");
    };
    area.later = true;
    p.site.objects.push(ground);
    let job = Job::of(&p);
    let [later] = &later_areas(&job, Some(Flow::from_gpm(6.0)))[..] else {
        panic!("one area comes later");
    };
    assert_eq!(later.kind, crate::catalogue::Kind::Rotator);
    let by_hand = later.rate.mmph() / 25.4 / 12.0 * 2400.0 * 7.48052 / 60.0;
    assert!((later.flow.gpm() - by_hand).abs() < 0.01, "{} {by_hand}", later.flow.gpm());
    assert!((9.0..13.0).contains(&later.flow.gpm()), "{}", later.flow.gpm());
    assert_eq!(later.stations, 2);
    assert!((later.flow_of_one().gpm() * 2.0 - later.flow.gpm()).abs() < 1e-9);
    assert_eq!(later.stub, None, "no main is drawn");
    assert_eq!(later_areas(&job, None)[0].stations, 1);
    // Too few stations are told before they are needed.
    p.controller_stations = Some(1);
    let known = crate::assess::assess(&Job::of(&p));
    let few = |a: &crate::assess::Assessment| {
        let mut all = a.supplies.iter().flat_map(|s| &s.findings);
        all.any(|f| matches!(f.check, crate::findings::Check::TooFewStations { valves, .. } if valves >= 2))
    };
    assert!(few(&known));
    // Its night counts it; what is bought does not.
    let job = Job::of(&p);
    let even = crate::runtime::Evennesses::of(&job, &known);
    let times = crate::runtime::times(&job, &known, &even, 7, 2026);
    let kept: Vec<_> = times.stations.iter().filter(|s| s.later).collect();
    assert!(!kept.is_empty() && kept.iter().all(|s| s.runs()));
    let runs = times.night.runs.iter().filter(|r| times.stations[r.station].later).count();
    assert!(runs >= kept.len());
    assert_eq!(crate::runtime::month_volume(kept[0], 7), crate::units::Volume::ZERO);
    // Once heads stand on it nothing is kept back.
    p.groups[0].area = Some("a1".into());
    assert_eq!(later_areas(&Job::of(&p), None), []);
}

#[test]
fn a_stub_goes_from_the_nearest_of_the_main_to_the_edge_of_what_comes_later() {
    use crate::site::tests::{lawn, rect};
    let stub = |way: [(f64, f64); 2]| {
        let mut p = crate::zone::tests::plan(60.0, "spray-12", &[(180, 6)]);
        let mut ground = lawn("a1", rect(30.0, 5.0, 10.0, 10.0));
        if let crate::site::ObjectKind::Area(area) = &mut ground.what {
            area.later = true;
        }
        p.site.objects.push(ground);
        let supply = p.supplies[0].id.clone();
        let ends = way.map(|(x, y)| Point::new(x, y));
        for (id, at) in ["j1", "j2"].into_iter().zip(ends) {
            p.piping.joints.push(crate::plan::Joint { id: id.into(), kind: crate::plan::JointKind::Tee, at });
        }
        p.piping.legs.push(PipeLeg {
            id: "m1".into(),
            of: LegOf::Main(supply),
            from: "j1".into(),
            to: "j2".into(),
            bends: Vec::new(),
            pipe: "pvc-40 1in".parse().unwrap(),
            size_pinned: false,
            kept: false,
            depth: None,
            sleeve: None,
        });
        let job = Job::of(&p);
        later_areas(&job, None)[0].stub.clone().expect("a main is drawn")
    };
    let near = |a: Point, x: f64, y: f64| a.distance(Point::new(x, y)) < 1e-6;
    // From the end of a main to a corner: 10 along and 5 up, 11.18 m.
    let corner = stub([(0.0, 0.0), (20.0, 0.0)]);
    assert!(near(corner.from, 20.0, 0.0) && near(corner.to, 30.0, 5.0), "{corner:?}");
    assert!((corner.length().m() - 125f64.sqrt()).abs() < 1e-9);
    // From the middle of a run past it, square to the edge.
    let past = stub([(0.0, 0.0), (50.0, 0.0)]);
    assert!((past.length().m() - 5.0).abs() < 1e-9 && (past.from.x - past.to.x).abs() < 1e-9, "{past:?}");
    // A main that runs into it is capped where it crosses the edge.
    let into = stub([(0.0, 10.0), (35.0, 10.0)]);
    assert!(near(into.to, 30.0, 10.0) && into.length().m() < 1e-9, "{into:?}");
}

mod keeping {
    use super::*;
    use crate::plan::{Edit, Regulation, Valve};

    fn again(plan: &Plan) -> Option<Edit> {
        let job = Job::of(plan);
        propose(&job, &assess(&job).water(), Scope::All).edit
    }

    /// 26 half circles on two valves, as the split put them.
    fn halves() -> Plan {
        split(&job(65.0, &[("spray-12", 26)])).0
    }

    #[test]
    fn a_split_that_stands_is_not_changed_by_splitting_again() {
        assert_eq!(again(&halves()), None);
        let both = split(&job(65.0, &[("spray-12", 26), ("rotator-20", 6), ("spray-12", 9)])).0;
        assert_eq!(again(&both), None);
    }

    #[test]
    fn what_was_decided_of_a_valve_is_kept_when_its_heads_change() {
        let mut plan = halves();
        let set = Regulation::Valve { set: Pressure::from_psi(40.0) };
        plan.valves[0] = Valve {
            name: "By the gate".into(),
            model: "anti-siphon-valve-1in".into(),
            filter: Some("filter-1in".into()),
            regulation: set,
            ..plan.valves[0].clone()
        };
        let known = |id: &str| Job::of(&plan).catalogue().device(id).is_some();
        assert!(known("anti-siphon-valve-1in") && known("filter-1in"), "models of the catalogue");
        // Eight more heads of the same area: a third valve, the two as they were called and fitted.
        plan.groups[0].listed.push(crate::plan::ArcCount { arc: 180, count: 8, valve: None });
        let edit = again(&plan).expect("eight heads are on no valve");
        let next = apply(&plan, &edit).unwrap().0;
        assert_eq!(next.valves.len(), 3);
        assert_eq!(next.valves[0].id, plan.valves[0].id);
        assert_eq!(next.valves[0].name, "By the gate");
        assert_eq!(next.valves[0].model, "anti-siphon-valve-1in");
        assert_eq!(next.valves[0].filter, plan.valves[0].filter);
        assert_eq!(next.valves[0].regulation, set);
        assert_eq!(next.valves[1].id, plan.valves[1].id);
        let mut names: Vec<&str> = next.valves.iter().map(|v| v.name.as_str()).collect();
        names.sort_unstable();
        names.dedup();
        assert_eq!(names.len(), 3, "no two are called the same");
        assert!(next.unassigned().is_empty());
    }

    #[test]
    fn a_model_that_no_longer_suits_is_not_kept() {
        // A 2 in valve does not close under 40 gpm, and 13 half circles take 15.
        let mut plan = halves();
        plan.valves[0].model = "valve-2in".into();
        let next = apply(&plan, &again(&plan).expect("another valve is wanted")).unwrap().0;
        assert_eq!(next.valves[0].model, "valve-1in");
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(24))]
        #[test]
        fn areas_are_whole_and_a_second_split_changes_nothing(
            psi in 48.0..90.0f64,
            counts in prop::collection::vec((prop::sample::select(SOME_NOZZLES.to_vec()), 1..30u32), 1..5),
            named in 0..4usize,
        ) {
            let mut plan = split(&job(psi, &counts)).0;
            for valve in &plan.valves {
                let on: Vec<(usize, u32)> = (plan.groups.iter())
                    .map(|g| (g.heads_on(Some(&valve.id)).len(), g.count()))
                    .filter(|(n, _)| *n > 0)
                    .collect();
                prop_assert!(on.len() == 1 || on.iter().all(|(n, of)| *n as u32 == *of), "{:?} on \
                    {}", on, valve.name);
            }
            let mut names: Vec<&str> = plan.valves.iter().map(|v| v.name.as_str()).collect();
            names.sort_unstable();
            names.dedup();
            prop_assert_eq!(names.len(), plan.valves.len(), "no two are called the same");
            if let Some(valve) = plan.valves.get_mut(named) {
                valve.name = "By the gate".into();
            }
            prop_assert_eq!(again(&plan), None);
        }
    }

    #[test]
    fn no_valve_takes_a_few_heads_of_another_area() {
        // Front 14 and back 12 half circles, 31 gpm on valves of 17.8: by flow alone 13 and 13 would do,
        // with one head of the front on the valve of the back.
        for (front, back) in [(14, 12), (17, 9), (20, 6), (5, 21), (3, 4)] {
            let plan = job(65.0, &[("spray-12", front), ("spray-12", back)]);
            let (next, _) = split(&plan);
            assert!(next.unassigned().is_empty());
            for valve in &next.valves {
                let on: Vec<(usize, u32)> = (next.groups.iter())
                    .map(|g| (g.heads_on(Some(&valve.id)).len(), g.count()))
                    .filter(|(n, _)| *n > 0)
                    .collect();
                let whole = on.iter().all(|(n, of)| *n as u32 == *of);
                assert!(on.len() == 1 || whole, "{front} and {back}: {on:?} on {}", valve.name);
            }
        }
        // Two small ones share one valve, and it says both.
        let (small, _) = split(&job(65.0, &[("spray-12", 3), ("spray-12", 4)]));
        assert_eq!(small.valves.len(), 1);
        assert_eq!(small.valves[0].name, format!("{} + {}", small.groups[0].name, small.groups[1].name));
    }

    #[test]
    fn a_lateral_is_taken_up_only_where_heads_change() {
        let mut plan = halves();
        let (one, other) = (plan.valves[0].id.clone(), plan.valves[1].id.clone());
        for valve in [&one, &other] {
            plan.piping.joints.push(crate::plan::Joint {
                id: format!("j-{valve}"),
                at: crate::site::Point::new(5.0, 5.0),
                kind: Default::default(),
            });
            plan.piping.legs.push(crate::plan::PipeLeg {
                id: format!("l-{valve}"),
                of: crate::plan::LegOf::Lateral(valve.clone()),
                from: valve.clone(),
                to: format!("j-{valve}"),
                bends: Vec::new(),
                pipe: plan.groups[0].pipe.clone(),
                size_pinned: false,
                kept: false,
                depth: None,
                sleeve: None,
            });
        }
        assert_eq!(again(&plan), None, "nothing changes, nothing is taken up");
        // One head goes over by hand: the split puts it back, and both laterals with it.
        let index = plan.groups[0].heads_on(Some(&one))[0].index;
        let head = crate::plan::HeadRef { group: plan.groups[0].id.clone(), index };
        plan = apply(&plan, &Edit::assign(vec![head], Some(other))).unwrap().0;
        let next = apply(&plan, &again(&plan).expect("14 and 12 are evened out")).unwrap().0;
        assert!(next.piping.legs.is_empty());
    }
}
