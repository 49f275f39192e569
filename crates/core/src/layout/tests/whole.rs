//! What a proposal does to the plan, and what kind of head it chooses and why.

use super::*;
use crate::progress::Progress;

#[test]
fn a_proposal_is_one_edit_that_keeps_locked_heads_and_can_be_undone() {
    let mut plan = plan_of(rect(0.0, 0.0, 30.0 * FT, 30.0 * FT));
    let head = |id: &str, x: f64, locked: bool| DrawnHead {
        id: id.into(),
        at: Point::new(x, 0.06),
        arc: 90,
        facing: 45.0,
        radius: None,
        valve: None,
        locked,
    };
    plan.groups.push(HeadGroup {
        area: Some("a1".into()),
        drawn: vec![head("h1", 0.06, true), head("h2", 3.0, false)],
        ..HeadGroup::new("g1", "Lawn", "spray-15")
    });
    let proposal = laid(&plan, Kind::Spray).unwrap();
    assert!(
        proposal.heads.iter().all(|h| h.at.distance(Point::new(0.06, 0.06)) > 1.0),
        "none stands on the locked one"
    );
    assert_eq!(proposal.score.heads, proposal.heads.len() + 1, "the locked one counts");
    let edit = lay_out(&Job::of(&plan), &proposal);
    let (laid, inverse) = apply(&plan, &edit).unwrap();
    let ids: Vec<&str> = laid.groups.iter().flat_map(|g| &g.drawn).map(|h| h.id.as_str()).collect();
    assert!(ids.contains(&"h1") && !ids.contains(&"h2") && ids.len() == proposal.heads.len() + 1, "{ids:?}");
    assert!(laid.groups.iter().all(|g| g.area.as_deref() == Some("a1") && g.is_drawn()));
    let (back, _) = apply(&laid, &inverse).unwrap();
    assert_eq!(back, plan);
    // Laid out again over itself: still one head for each place, the locked one too.
    let (again, _) = apply(&laid, &lay_out(&Job::of(&laid), &proposal)).unwrap();
    assert_eq!(again.groups.iter().map(|g| g.drawn.len()).sum::<usize>(), ids.len());
}

#[test]
fn heads_are_evened_out_between_the_first_and_the_last() {
    let mut plan = plan_of(rect(0.0, 0.0, 12.0, 6.0));
    let head = |id: &str, x: f64, y: f64| DrawnHead {
        id: id.into(),
        at: Point::new(x, y),
        arc: 180,
        facing: 90.0,
        radius: None,
        valve: None,
        locked: false,
    };
    // 1, 3, 4, 10: between 1 and 10 they belong to 4 and 7; how far each is off the edge stays.
    plan.groups.push(HeadGroup {
        drawn: vec![
            head("h1", 4.0, 0.1),
            head("h2", 1.0, 0.05),
            head("h3", 10.0, 0.05),
            head("h4", 3.0, 0.05),
        ],
        ..HeadGroup::new("g1", "Lawn", "spray-12")
    });
    let ids: Vec<String> = ["h1", "h2", "h3", "h4"].map(String::from).into();
    let mut now = plan.clone();
    for gesture in even_out(&plan, &ids) {
        now = apply(&now, &gesture.edit(&Job::of(&now)).unwrap()).unwrap().0;
    }
    let at = |id: &str| now.drawn_head(id).unwrap().1.at;
    for (id, x, y) in [("h2", 1.0, 0.05), ("h4", 4.0, 0.05), ("h1", 7.0, 0.1), ("h3", 10.0, 0.05)] {
        assert!(at(id).distance(Point::new(x, y)) < 1e-6, "{id} stands at {:?}", at(id));
    }
    assert!(even_out(&plan, &ids[..2]).is_empty(), "two heads have nothing between them");
}

#[test]
fn the_kind_of_head_follows_the_ground_and_the_house() {
    let kind = |w: f64, l: f64, change: fn(&mut Plan)| {
        let mut plan = plan_of(rect(0.0, 0.0, l * FT, w * FT));
        change(&mut plan);
        advise(&plan, "a1").unwrap().kind
    };
    fn area(p: &mut Plan) -> &mut crate::site::Area {
        let ObjectKind::Area(a) = &mut p.site.objects[0].what else { panic!("an area") };
        a
    }
    let as_is = |_: &mut Plan| {};
    assert_eq!(
        [
            kind(1.5, 30.0, as_is),
            kind(4.0, 30.0, as_is),
            kind(16.0, 30.0, as_is),
            kind(40.0, 60.0, as_is),
            kind(90.0, 120.0, as_is),
            kind(200.0, 300.0, as_is)
        ],
        [Kind::Dripline, Kind::Spray, Kind::Spray, Kind::Rotator, Kind::RotorMid, Kind::RotorLarge]
    );
    // Of 3 to 5 ft the strip of 4 ft serves; of 2 ft and a half nothing that throws does.
    assert_eq!([kind(3.1, 30.0, as_is), kind(4.9, 30.0, as_is)], [Kind::Spray; 2]);
    assert_eq!(kind(2.5, 30.0, as_is), Kind::Dripline);
    assert_eq!(kind(16.0, 30.0, |p| area(p).slope_percent = 12.0), Kind::Rotator);
    assert_eq!(kind(10.0, 30.0, |p| area(p).soil = crate::plan::Soil::Clay), Kind::RotatorShort);
    assert_eq!(kind(16.0, 30.0, |p| p.rules.heads = crate::plan::HeadSchool::Rotator), Kind::Rotator);
    assert_eq!(kind(16.0, 30.0, |p| area(p).kind = crate::site::AreaKind::Vegetables), Kind::Dripline);
    // Beds by rows, as far as heads would stand among plants, unless the house does otherwise.
    let bed = |p: &mut Plan| area(p).kind = crate::site::AreaKind::Bed;
    assert_eq!([kind(3.0, 30.0, bed), kind(12.0, 22.0, bed)], [Kind::Dripline; 2]);
    assert_eq!(kind(40.0, 60.0, bed), Kind::Rotator);
    let sprays = |p: &mut Plan| {
        area(p).kind = crate::site::AreaKind::Bed;
        p.rules.heads = crate::plan::HeadSchool::Spray;
    };
    assert_eq!([kind(4.0, 30.0, sprays), kind(12.0, 22.0, sprays)], [Kind::Spray; 2]);
}

#[test]
fn kinds_stand_side_by_side_with_figures_that_can_be_checked() {
    let plan = plan_of(rect(0.0, 0.0, 30.0 * FT, 45.0 * FT));
    let assessment = crate::assess::assess(&Job::of(&plan));
    let progress = Progress::default();
    let all = alternatives(&Job::of(&plan), assessment.available(), "a1", &progress);
    assert_eq!(
        all.iter().map(|a| a.kind).collect::<Vec<_>>()[..3],
        [Kind::Spray, Kind::RotatorShort, Kind::Rotator]
    );
    let of = |kind: Kind| all.iter().find(|a| a.kind == kind).unwrap();
    let (spray, rotator) = (of(Kind::Spray), of(Kind::Rotator));
    let score = |a: &Alternative| a.heads.as_ref().unwrap().score;
    // Standard rotators apply about a quarter of what sprays do: they run longer for the same need.
    assert!(
        score(rotator).rate.mmph() < 0.4 * score(spray).rate.mmph(),
        "{} {}",
        score(rotator).rate.mmph(),
        score(spray).rate.mmph()
    );
    let minutes = |a: &Alternative| a.minutes.unwrap().minutes.minutes();
    assert!(minutes(rotator) > 2.0 * minutes(spray));
    // Lawn of medium thirst in full sun: 1.6 in x 0.8 = 1.28 in a week; by rate and evenness.
    let s = score(spray);
    let even = spray.heads.as_ref().unwrap().expected.unwrap().du;
    assert!(even < s.du, "an audit finds less than perfect heads would give");
    let landing = s.rate.mmph() * (1.0 - s.overspray);
    let by_hand = 60.0 * 1.28 * 25.4 / landing / (0.4 + 0.6 * even);
    assert!((minutes(spray) - by_hand).abs() < 0.5, "{} {by_hand}", minutes(spray));
    assert!((spray.year.unwrap().litres() - s.flow.lpm() * by_hand * 18.0).abs() < 60.0);
    assert_eq!((spray.valves, spray.pressure.1), (None, None), "no reading of the water, no valves");
    assert_eq!(spray.cost, None, "no prices, no cost");
    // With the house's own 15 ft spray at 1.85 on the truck every head is one of those.
    let row = crate::catalogue::ChartRow {
        pressure: crate::units::Pressure::from_psi(30.0),
        arc: 360,
        radius: Length::from_ft(15.0),
        flow: crate::units::Flow::from_gpm(3.7),
    };
    let ours = crate::catalogue::OwnNozzle {
        id: "own-15".into(),
        label: "Field 15".into(),
        kind: Kind::Spray,
        chart: vec![row],
        price: "1.85".parse().ok(),
    };
    let mut priced = plan.clone();
    for edit in [
        crate::plan::Edit::put(ours),
        crate::plan::Edit::SetFavourites(crate::plan::SetFavourites { ids: vec!["own-15".into()] }),
    ] {
        priced = apply(&priced, &edit).unwrap().0;
    }
    let of_ours = &alternatives(&Job::of(&priced), assessment.available(), "a1", &progress)[0];
    let heads = of_ours.heads.as_ref().unwrap().heads.len() as i64;
    assert_eq!(of_ours.cost, Some(rust_decimal::Decimal::new(185 * heads, 2)));
    // Dripline as it is laid, beside what a hand reckons by area: 1350 ft2 in rows 16 in apart is 1012 ft;
    // every 12 in an emitter of 0.6 gph, as for turf: 10.1 gpm. Rows stand on both edges: at most a tenth
    // more.
    let drip = of(Kind::Dripline).drip.clone().unwrap().unwrap();
    let flow = of(Kind::Dripline).flow.unwrap().gpm();
    assert!((1012.5..1012.5 * 1.1).contains(&drip.tubing.ft()), "{}", drip.tubing.ft());
    assert!(
        (flow - drip.emitters as f64 * 0.01).abs() < 1e-6 && (10.1..10.125 * 1.1).contains(&flow),
        "{flow}"
    );
    assert!(drip.rows_apart.inches() <= 16.0 + 1e-9);
    // 96.25 gpm over the ground.
    assert!((drip.rate.mmph() / 25.4 - 96.25 * flow / 1350.0).abs() < 0.001);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(10))]

    /// Whatever the ground looks like, no head stands off it or on what is kept dry, and what it
    /// throws is its nozzle's.
    #[test]
    fn heads_stand_on_their_area(
        corners in proptest::collection::vec(0.45..1.0f64, 4..9),
        size in 12.0..60.0f64,
        dry in (0.0..1.0f64, 0.0..1.0f64, 1.0..5.0f64),
        spray: bool,
    ) {
        let n = corners.len() as f64;
        // A star-shaped outline never crosses itself.
        let corner = |(i, r): (usize, &f64)| Point::default().toward(360.0 * i as f64 / n, r * size * FT / 2.0);
        let points: Vec<Point> = corners.iter().enumerate().map(corner).collect();
        let mut plan = plan_of(Shape::plain(Outline::straight(&points)));
        let pad = rect((dry.0 - 0.5) * size * FT, (dry.1 - 0.5) * size * FT, dry.2, dry.2);
        let kept_dry = KeepDry { kind: DryKind::Paving, height: None, form: Form::Region(pad.clone()) };
        plan.site.objects.push(SiteObject { id: "d1".into(), name: "Pad".into(), what: ObjectKind::Dry(kept_dry) });
        let kind = if spray { Kind::Spray } else { Kind::RotatorShort };
        if let Ok(p) = laid(&plan, kind) {
            let shape = plan.site.area("a1").unwrap().shape.clone();
            for h in &p.heads {
                prop_assert!(shape.contains(h.at) && !pad.contains(h.at), "{h:?}");
                let nozzle = Catalogue::builtin().nozzle(&h.nozzle).unwrap();
                prop_assert!(nozzle.kind == kind && (nozzle.arcs.0..=nozzle.arcs.1).contains(&h.arc));
                let full = nozzle.radius.unwrap();
                let least = nozzle.least_throw().unwrap();
                prop_assert!(h.radius.is_none_or(|r| r.m() <= full.m() + 1e-9 && r.m() >= least.m() * 0.995));
            }
            prop_assert!(p.score.du.is_finite() && (0.0..=1.0).contains(&p.score.on_dry));
        }
    }
}

#[test]
fn what_is_wrong_on_an_area_is_found_with_what_would_mend_it() {
    use crate::assess::area_report;
    use crate::findings::{Check, Severity};
    use crate::remedies;
    let mut plan = plan_of(rect(0.0, 0.0, 40.0 * FT, 30.0 * FT));
    plan.site.objects.push(SiteObject {
        id: "d1".into(),
        name: "Walk".into(),
        what: ObjectKind::Dry(KeepDry {
            kind: DryKind::Path,
            height: None,
            form: Form::Region(rect(0.0, -4.0 * FT, 40.0 * FT, 4.0 * FT)),
        }),
    });
    let head = |id: &str, x: f64, y: f64, arc: u16, facing: f64, radius: Option<f64>| DrawnHead {
        id: id.into(),
        at: Point::new(x * FT, y * FT),
        arc,
        facing,
        radius: radius.map(Length::from_ft),
        valve: None,
        locked: false,
    };
    // Full circles on the lower edge throw half of their water on the walk; 25 ft apart they do not
    // reach one another; the upper part stays dry.
    let drawn = vec![head("h1", 8.0, 0.0, 360, 0.0, None), head("h2", 33.0, 0.05, 360, 0.0, None)];
    plan.groups.push(HeadGroup {
        area: Some("a1".into()),
        drawn,
        ..HeadGroup::new("g1", "Lawn", "spray-12")
    });
    let found = |plan: &Plan| {
        let assessment = crate::assess::assess(&Job::of(plan));
        let job = Job::of(plan);
        let report = area_report(&job, &assessment.solved_heads(), "a1").expect("heads are drawn");
        remedies::of_area(&job, &assessment, &report)
    };
    let all = found(&plan);
    let of = |code: &str| {
        all.iter().find(|f| f.finding.code() == code).unwrap_or_else(|| {
            panic!("{code} not found in {:?}", all.iter().map(|f| f.finding.code()).collect::<Vec<_>>())
        })
    };
    let Check::NotHeadToHead { heads: 2, of: 2, gap, .. } = of("not-head-to-head").finding.check else {
        panic!("{:?}", of("not-head-to-head"));
    };
    assert!((gap.ft() - 25.0).abs() < 0.05, "{}", gap.ft());
    let dry = &of("throw-over-dry").finding;
    assert!(dry.severity == Severity::Stop);
    assert!(matches!(&dry.check, Check::ThrowOverDry { worst, .. } if worst == "Walk"));
    // The screw of a 12 ft nozzle goes down to 9 ft: 5 ft, from a log of before that was refused.
    let mut turned = plan.clone();
    turned.groups[0].drawn[1].radius = Some(Length::from_ft(5.0));
    let beyond = found(&turned).into_iter().find(|f| f.finding.code() == "beyond-adjustment").unwrap();
    let Check::BeyondAdjustment { heads: 1, set, least, .. } = beyond.finding.check else {
        panic!("{beyond:?}");
    };
    assert!((set.ft() - 5.0).abs() < 1e-6 && (least.ft() - 9.0).abs() < 1e-6);
    let (set, _) = apply(&turned, &beyond.remedies[0].edit).unwrap();
    assert!((set.drawn_head("h2").unwrap().1.radius.unwrap().ft() - 9.0).abs() < 1e-6);
    assert!(matches!(of("at-the-edge").finding.check, Check::AtTheEdge { heads: 2, .. }));
    assert_eq!(
        (of("unwatered-part").finding.severity, of("uneven").finding.severity),
        (Severity::Stop, Severity::Fix)
    );
    assert!(all.windows(2).all(|w| w[0].finding.severity <= w[1].finding.severity), "the worst first");
    // Each remedy does what it says: one layout mends all that placing mends.
    for (code, gone) in [
        ("at-the-edge", vec!["at-the-edge"]),
        ("throw-over-dry", vec!["throw-over-dry", "not-head-to-head", "unwatered-part", "uneven"]),
    ] {
        let (after, _) = apply(&plan, &of(code).remedies[0].edit).unwrap();
        let left = found(&after);
        assert!(
            gone.iter().all(|g| left.iter().all(|f| f.finding.code() != *g)),
            "{code}: {:?}",
            left.iter().map(|f| f.finding.code()).collect::<Vec<_>>()
        );
    }
    // Rotators among sprays: 1.6 and 0.4 in an hour.
    let mut mixed = plan.clone();
    mixed.groups.push(HeadGroup {
        area: Some("a1".into()),
        drawn: vec![head("h3", 20.0, 15.0, 360, 0.0, None)],
        ..HeadGroup::new("g2", "Lawn", "rotator-14")
    });
    assert!(
        found(&mixed)
            .iter()
            .any(|f| f.finding.code() == "mixed-rates" && f.finding.severity == Severity::Stop)
    );
    let good = apply(&plan, &of("uneven").remedies[0].edit).unwrap().0;
    assert!(found(&good).is_empty(), "{:?}", found(&good).iter().map(|f| &f.finding).collect::<Vec<_>>());
}

#[test]
fn what_is_on_the_truck_comes_first_and_the_rest_where_it_does_not_suit() {
    let with_truck = |shape: Shape| {
        apply(
            &plan_of(shape),
            &crate::plan::Edit::SetFavourites(crate::plan::SetFavourites { ids: vec!["spray-17".into()] }),
        )
        .unwrap()
        .0
    };
    let wide = laid(&with_truck(rect(0.0, 0.0, 34.0 * FT, 34.0 * FT)), Kind::Spray).unwrap();
    assert!(wide.heads.iter().all(|h| h.nozzle == "spray-17"), "{:?}", wide.heads);
    // Turned down all the way a 17 ft spray still throws over ground 8 ft wide.
    let narrow = laid(&with_truck(rect(0.0, 0.0, 40.0 * FT, 8.0 * FT)), Kind::Spray).unwrap();
    assert!(
        !narrow.heads.is_empty() && narrow.heads.iter().all(|h| h.nozzle != "spray-17"),
        "{:?}",
        narrow.heads
    );
    // Every kind counts as a step of the bar, those that do not fit too.
    let plan = plan_of(rect(0.0, 0.0, 5.0, 5.0));
    let progress = Progress::default();
    alternatives(&Job::of(&plan), crate::assess::assess(&Job::of(&plan)).available(), "a1", &progress);
    assert_eq!(progress.now().0, 6);
}

#[test]
fn another_kind_leaves_no_pipe_and_no_valve_of_the_old_one_behind() {
    use crate::plan::{Edit, Joint, LegOf, PipeLeg, Valve, left_behind};
    // Two lawns, a valve each, a lateral drawn to every head of both.
    let mut plan = plan_of(rect(0.0, 0.0, 30.0 * FT, 30.0 * FT));
    let mut second = plan.site.objects[0].moved(Motion::Shift { by: Point::new(20.0, 0.0) });
    second.id = "a2".into();
    plan.site.objects.push(second);
    for (n, area) in [(1, "a1"), (2, "a2")] {
        let valve = format!("v{n}");
        plan.valves.push(Valve::new(&valve, &valve, &plan.supplies[0].id.clone()));
        let id = format!("h{n}");
        plan.groups.push(HeadGroup {
            area: Some(area.into()),
            drawn: vec![DrawnHead {
                id: id.clone(),
                at: Point::new(1.0, 1.0),
                arc: 90,
                facing: 45.0,
                radius: None,
                valve: Some(valve.clone()),
                locked: false,
            }],
            ..HeadGroup::new(&format!("g{n}"), area, "spray-15")
        });
        plan.piping.joints.push(Joint {
            id: format!("j{n}"),
            at: Point::new(5.0, 5.0),
            kind: Default::default(),
        });
        for (from, to) in [(valve.clone(), format!("j{n}")), (format!("j{n}"), id)] {
            plan.piping.legs.push(PipeLeg {
                id: format!("l-{from}"),
                of: LegOf::Lateral(valve.clone()),
                from,
                to,
                bends: Vec::new(),
                pipe: plan.groups[0].pipe.clone(),
                size_pinned: false,
                kept: false,
                depth: None,
                sleeve: None,
            });
        }
    }
    let proposal = |area: &str| Proposal { area: area.into(), ..laid(&plan, Kind::RotatorShort).unwrap() };
    // One after the other, as taking a kind for all areas does: names that came free are not given again.
    let first = lay_out(&Job::of(&plan), &proposal("a1"));
    let (one, _) = apply(&plan, &first).unwrap();
    assert_eq!(one.valves.iter().map(|v| v.id.as_str()).collect::<Vec<_>>(), ["v2"]);
    assert!(one.piping.legs.len() == 2 && one.piping.joints.len() == 1, "the other's stay");
    let (both, back) = {
        let second = lay_out(&Job::of(&one), &proposal("a2"));
        apply(&plan, &Edit::batch(vec![first, second])).unwrap()
    };
    assert!(both.valves.is_empty() && both.piping.legs.is_empty() && both.piping.joints.is_empty());
    assert_eq!(apply(&both, &back).unwrap().0, plan, "one step back");
    // A locked valve stays without its lateral; a valve that gets heads keeps what it has.
    let mut locked = plan.clone();
    locked.valves[0].locked = true;
    let (kept, _) = apply(&locked, &lay_out(&Job::of(&locked), &proposal("a1"))).unwrap();
    assert_eq!((kept.valves.len(), kept.piping.legs.len()), (2, 2));
    let mut more = plan.clone();
    let mut head = more.groups[0].drawn[0].clone();
    head.id = "h9".into();
    more.groups[0].drawn.push(head);
    assert!(left_behind(&plan, &more).is_empty());
}
