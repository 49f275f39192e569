use crate::svg::{escape, nice_step};
use crate::{
    FlowBar, Over, PressureBar, WalkDrawing, coverage_map, flow_bar, nozzle_curve, pressure_glyph,
    pressure_walk, scale,
};
use fenlo_core::catalogue::PressureBand;
use fenlo_core::chain::PartName;
use fenlo_core::units::{Flow, Length, Pressure, UnitSystem};
use fenlo_core::zone::{WalkNote, WalkPart, WalkStep};

fn steps(costs: &[(WalkPart, f64)]) -> Vec<WalkStep> {
    let mut left = Pressure::from_psi(62.0);
    costs
        .iter()
        .map(|(part, psi)| {
            left = left - Pressure::from_psi(*psi);
            WalkStep { part: part.clone(), cost: Pressure::from_psi(*psi), left, note: WalkNote::None }
        })
        .collect()
}

fn band() -> PressureBand {
    let [least, best, most] = [20.0, 30.0, 40.0].map(Pressure::from_psi);
    PressureBand { least, best, most }
}

fn device(model: &str) -> WalkPart {
    WalkPart::Chain(PartName::Device(model.into()))
}

fn meter() -> WalkPart {
    WalkPart::Chain(PartName::Meter("3/4in".into()))
}

#[test]
fn the_walk_is_drawn_as_it_was() {
    let walk = steps(&[
        (WalkPart::Static, 0.0),
        (meter(), 2.9),
        (WalkPart::Regulator, 18.0),
        (WalkPart::FirstLeg, 6.0),
    ]);
    let after = steps(&[(WalkPart::Static, 0.0), (meter(), 2.9), (WalkPart::FirstLeg, 3.0)]);
    insta::assert_snapshot!(pressure_walk(WalkDrawing {
        steps: &walk,
        with_remedy: Some(&after),
        band: band(),
        kind: "Spray",
        units: UnitSystem::Us
    }));
}

fn bar(low: f64, high: f64, starved: bool) -> PressureBar {
    let (low, high) = (Pressure::from_psi(low), Pressure::from_psi(high));
    PressureBar { low, high, band: band(), starved, over: false }
}

#[test]
fn the_glyphs_are_drawn_as_they_were() {
    insta::assert_snapshot!(
        [
            flow_bar(
                FlowBar {
                    flow: Flow::from_gpm(13.1),
                    design: Some(Flow::from_gpm(14.2)),
                    over: false,
                    number: 2
                },
                UnitSystem::Us
            ),
            pressure_glyph(bar(18.0, 33.0, true), UnitSystem::Us),
        ]
        .join("\n")
    );
}

#[test]
fn a_head_that_the_checks_call_wrong_is_marked_and_one_that_they_do_not_is_not() {
    let good = pressure_glyph(bar(25.0, 33.0, false), UnitSystem::Us);
    let bad = pressure_glyph(bar(15.0, 33.0, true), UnitSystem::Us);
    assert!(!good.contains(crate::colour::STOP) && bad.contains(crate::colour::STOP));
}

#[test]
fn names_cannot_break_out_of_the_drawing() {
    let walk = steps(&[(device("<script>alert(1)</script>"), 0.0), (device("\"onload=\u{7}"), 1.0)]);
    let svg = pressure_walk(WalkDrawing {
        steps: &walk,
        with_remedy: None,
        band: band(),
        kind: "<b>",
        units: UnitSystem::Us,
    });
    assert!(!svg.contains("<script") && !svg.contains("<b>") && !svg.contains('\u{7}'));
    assert_eq!(escape("a<b>&\"'"), "a&lt;b&gt;&amp;&quot;&#39;");
}

#[test]
fn axes_have_round_steps() {
    assert_eq!(nice_step(62.0, 7.0), 10.0);
    assert_eq!(nice_step(430.0, 7.0), 100.0);
    assert_eq!(nice_step(9.0, 7.0), 2.0);
}

#[test]
fn drawings_of_extremes_hold_only_finite_numbers() {
    let walk = steps(&[(WalkPart::Static, 0.0), (WalkPart::Height, 500.0)]);
    let svg = pressure_walk(WalkDrawing {
        steps: &walk,
        with_remedy: None,
        band: band(),
        kind: "Spray",
        units: UnitSystem::Metric,
    });
    let bar = flow_bar(
        FlowBar { flow: Flow::ZERO, design: Some(Flow::ZERO), over: false, number: 0 },
        UnitSystem::Us,
    );
    assert!(!(svg + &bar).contains("NaN"));
}

#[test]
fn the_supply_curve_is_drawn_as_it_was() {
    use fenlo_core::plan::{Reading, ReadingKind, Supply};
    let read = |kind| Reading { kind, when: String::new(), instrument: String::new(), tap: String::new() };
    let mut supply = Supply::new("s1", "Meter");
    supply.readings = vec![
        read(ReadingKind::Static { pressure: Pressure::from_psi(62.0) }),
        read(ReadingKind::Dynamic { flow: Flow::from_gpm(10.0), pressure: Pressure::from_psi(54.0) }),
    ];
    let curve = fenlo_core::water::supply_curve(&supply).expect("falls with flow");
    let connection: Vec<(Flow, Pressure)> = (0..5)
        .map(|i| Flow::from_gpm(f64::from(i) * 4.0))
        .map(|q| (q, curve.pressure_at(q) - Pressure::from_psi(4.0)))
        .collect();
    insta::assert_snapshot!(crate::supply_curve(crate::CurveDrawing {
        curve: &curve,
        connection: &connection,
        design: Some(Flow::from_gpm(14.2)),
        units: UnitSystem::Us
    }));
}

mod board {
    use crate::board::{Beside, board_svg, frame, head, lateral, main, thing};
    use fenlo_core::assess::assess;
    use fenlo_core::job::Job;
    use fenlo_core::plan::{DrawnHead, HeadGroup, LegOf, PipeLeg, Plan, Reading, ReadingKind, Valve};
    use fenlo_core::site::{
        Area, DryKind, Form, KeepDry, Note, ObjectKind, Outline, Path, PlaceKind, PlaceMark, Planting, Point,
        Shape, SiteObject, SpotHeight, Vertex,
    };
    use fenlo_core::units::{Length, Pressure, UnitSystem};

    fn named(id: &str, name: &str, what: ObjectKind) -> SiteObject {
        SiteObject { id: id.into(), name: name.into(), what }
    }

    /// A lawn of 6 x 4 m with half a circle on its right, a wall, a row of plants, a few marks, two heads.
    fn plan() -> Plan {
        let mut plan = Plan::new("Small & <sound>", UnitSystem::Metric);
        let lawn = Outline(vec![
            Vertex::new(0.0, 0.0),
            Vertex { at: Point::new(6.0, 0.0), bulge: 1.0 },
            Vertex::new(6.0, 4.0),
            Vertex::new(0.0, 4.0),
        ]);
        let wall = Path(vec![Vertex { at: Point::new(-1.0, 0.0), bulge: -0.5 }, Vertex::new(-1.0, 4.0)]);
        plan.site.objects = vec![
            named("a1", "Lawn <b>", ObjectKind::Area(Area { shape: Shape::plain(lawn), ..Area::default() })),
            named(
                "d1",
                "",
                ObjectKind::Dry(KeepDry { kind: DryKind::Wall, height: None, form: Form::Line(wall) }),
            ),
            named(
                "p1",
                "",
                ObjectKind::Place(PlaceMark {
                    kind: PlaceKind::ValveBox,
                    at: Point::new(-0.5, -1.0),
                    supply: None,
                }),
            ),
            named(
                "l1",
                "",
                ObjectKind::Plant(Planting {
                    canopy: Length::from_m(1.0),
                    at: Point::new(0.0, 5.0),
                    to: Some(Point::new(4.0, 5.0)),
                    count: 3,
                }),
            ),
            named(
                "h1",
                "",
                ObjectKind::Height(SpotHeight { at: Point::new(3.0, 2.0), height: Length::from_m(0.4) }),
            ),
            named(
                "n1",
                "",
                ObjectKind::Note(Note { at: Point::new(1.0, 6.0), text: "gate \"here\"".into() }),
            ),
        ];
        plan.supplies[0].readings.push(Reading {
            kind: ReadingKind::Static { pressure: Pressure::from_kpa(400.0) },
            when: String::new(),
            instrument: String::new(),
            tap: String::new(),
        });
        plan.valves.push(Valve::new("v1", "Lawn", "s1"));
        let drawn = |id: &str, x: f64, arc: u16, facing: f64, valve: Option<&str>| DrawnHead {
            id: id.into(),
            at: Point::new(x, 0.0),
            arc,
            facing,
            radius: None,
            valve: valve.map(str::to_owned),
            locked: false,
        };
        plan.groups.push(HeadGroup {
            area: Some("a1".into()),
            drawn: vec![drawn("x1", 0.0, 90, 45.0, Some("v1")), drawn("x2", 3.0, 360, 0.0, None)],
            ..HeadGroup::new("g1", "Lawn", "spray-12")
        });
        plan
    }

    #[test]
    fn things_and_heads_are_drawn_as_they_were() {
        let plan = plan();
        let job = Job::of(&plan);
        let figures = assess(&job);
        let mut lines: Vec<String> = plan.site.objects.iter().map(|t| thing(t, plan.units)).collect();
        lines.extend(plan.groups[0].drawn.iter().map(|h| head(&job, &figures, &plan.groups[0], h)));
        lines.push(lateral(&job, &figures, &Beside::of(&job), "v1"));
        insta::assert_snapshot!(lines.join("\n"));
    }

    #[test]
    fn pipe_shows_its_way_its_size_its_sleeve_and_which_way_the_water_runs() {
        let mut plan = plan();
        let path = Outline::straight(&[
            Point::new(2.0, -3.0),
            Point::new(3.0, -3.0),
            Point::new(3.0, 9.0),
            Point::new(2.0, 9.0),
        ]);
        let paving = ObjectKind::Dry(KeepDry {
            kind: DryKind::Paving,
            height: None,
            form: Form::Region(Shape::plain(path)),
        });
        plan.site.objects.push(named("d2", "Path", paving));
        plan.valves[0].valve_box = Some("p1".into());
        let first = plan.groups[0].drawn[0].id.clone();
        // Drawn against the water: from the head to the valve.
        plan.piping.legs = vec![PipeLeg {
            bends: vec![Point::new(5.0, -1.0)],
            sleeve: Some("pe100-sdr11 40mm".parse().unwrap()),
            size_pinned: true,
            ..PipeLeg::straight(
                "p7",
                LegOf::Lateral("v1".into()),
                &first,
                "v1",
                "pe100-sdr11 25mm".parse().unwrap(),
            )
        }];
        let job = Job::of(&plan);
        let svg = lateral(&job, &assess(&job), &Beside::of(&job), "v1");
        assert!(svg.contains(r#"id="t-p7" class="thing pipe lateral pinned sleeved""#), "{svg}");
        // Under the path and a foot beyond both its edges: from 3.3048 to 1.6952 m.
        assert!(svg.contains(r#"class="sleeve" d="M3.305 1.000L1.695 1.000""#), "{svg}");
        assert!(svg.contains("PE100 SDR11 25 mm") && svg.contains("loss 0 kPa"), "{svg}");
        // The level stretch is drawn to the left, and the water runs to the right: no turn.
        assert!(svg.contains(r#"transform="rotate(0.0)""#) || svg.contains("rotate(-360.0)"), "{svg}");
        assert_eq!(
            main(&job, &assess(&job), &Beside::of(&job), "s1").matches("pipe").count(),
            2,
            "no main is drawn"
        );
        assert_eq!(svg.matches("<g").count(), svg.matches("</g>").count());
    }

    #[test]
    fn an_arc_bends_to_the_side_it_was_drawn() {
        let svg = thing(&plan().site.objects[0], UnitSystem::Metric);
        // From (6, 0) up to (6, 4), out to the right: on the screen counter-clockwise, sweep 0.
        assert!(
            svg.contains(
                "M0.0000 -0.0000L6.0000 -0.0000A2.0000 2.0000 0 0 0 6.0000 -4.0000L0.0000 \
            -4.0000L0.0000 -0.0000Z"
            ),
            "{svg}"
        );
        let wall = thing(&plan().site.objects[1], UnitSystem::Metric);
        assert!(wall.contains("A2.5000 2.5000 0 0 1 -1.0000 -4.0000"), "the other way round: {wall}");
    }

    #[test]
    fn the_file_is_to_scale_escaped_and_whole() {
        let plan = plan();
        let svg = board_svg(&Job::of(&plan), &assess(&Job::of(&plan)));
        let (l, b, r, t) = frame(&plan);
        assert!(
            svg.contains(&format!("width=\"{:.1}mm\"", (r - l) * 10.0))
                && svg.contains(&format!("height=\"{:.1}mm\"", (t - b) * 10.0)),
            "1:100"
        );
        assert!(
            svg.contains("<title>Small &amp; &lt;sound&gt; · 1:100</title>") && !svg.contains("Lawn <b>")
        );
        assert_eq!(svg.matches("<g").count(), svg.matches("</g>").count());
        assert!(!svg.contains("NaN") && !svg.contains("inf"));
        let empty = Plan::new("Empty", UnitSystem::Us);
        assert!(!board_svg(&Job::of(&empty), &assess(&Job::of(&empty))).contains("inf"));
    }
}

#[test]
fn the_map_covers_the_area_in_bands_and_marks_its_ends() {
    use fenlo_core::coverage::{Pattern, Profile, Throw, coverage};
    use fenlo_core::plan::Plan;
    use fenlo_core::site::{Area, DryKind, Form, KeepDry, ObjectKind, Outline, Point, Shape, SiteObject};
    let rect = |x: f64, w: f64| {
        Shape::plain(Outline::straight(&[
            Point::new(x, 0.0),
            Point::new(x + w, 0.0),
            Point::new(x + w, 6.0),
            Point::new(x, 6.0),
        ]))
    };
    let mut plan = Plan::new("t", UnitSystem::Us);
    plan.site.objects.push(SiteObject {
        id: "a\"1".into(),
        name: String::new(),
        what: ObjectKind::Area(Area { shape: rect(0.0, 8.0), ..Area::default() }),
    });
    plan.site.objects.push(SiteObject {
        id: "d1".into(),
        name: String::new(),
        what: ObjectKind::Dry(KeepDry {
            kind: DryKind::Paving,
            height: None,
            form: Form::Region(rect(8.0, 4.0)),
        }),
    });
    let throw = Throw {
        at: Point::new(7.0, 3.0),
        facing: 0.0,
        reach: 4.0,
        pattern: Pattern::Sector(360.0),
        profile: Profile::Falling,
        hollow: 0.0,
        fog: 0.0,
        streaks: [0.0; 4],
        flow: Flow::from_lpm(9.0),
    };
    let c = coverage(&plan, "a\"1", &[throw], None).unwrap();
    let map = coverage_map(&c, UnitSystem::Us);
    assert!(
        map.contains("data-area=\"a&quot;1\"")
            && map.contains("class=\"driest\"")
            && map.contains("wettest "),
        "{map}"
    );
    assert!(map.contains("class=\"spilt dry\""), "water on the paving is shown as such");
    // Runs of cells of all bands together are the area: 48 m2, to the width of a cell.
    let covered: f64 = map
        .split("<path class=\"w")
        .skip(1)
        .filter_map(|p| p.split("/>").next())
        .flat_map(|p| p.split('M').skip(1))
        .map(|run| {
            let figure = |after: char| {
                run.split(after)
                    .nth(1)
                    .and_then(|t| t.split(['h', 'v', 'z', '-']).next())
                    .and_then(|t| t.parse::<f64>().ok())
                    .unwrap_or(0.0)
            };
            figure('h') * figure('v')
        })
        .sum();
    assert!((covered - 48.0).abs() < 2.5, "{covered}");
    assert_eq!(scale(&c, UnitSystem::Us).len(), 7);
    let none = coverage(&plan, "a\"1", &[], None).unwrap();
    assert!(!coverage_map(&none, UnitSystem::Us).contains("path") && scale(&none, UnitSystem::Us).is_empty());
}

#[test]
fn a_nozzle_is_drawn_over_pressure_with_the_rows_of_its_chart() {
    use fenlo_core::catalogue::{Catalogue, ChartRow};
    let c = Catalogue::builtin();
    let nozzle = c.nozzle("spray-12").unwrap();
    let row = |psi: f64| ChartRow {
        pressure: Pressure::from_psi(psi),
        arc: 180,
        radius: Length::from_ft(12.0),
        flow: Flow::from_gpm(1.2),
    };
    for over in [Over::Flow, Over::Throw, Over::Rate] {
        let svg = nozzle_curve(nozzle, c.class(nozzle.kind), &[row(20.0), row(30.0)], over, UnitSystem::Us);
        assert!(
            svg.matches("<circle").count() == 2
                && svg.contains(">30<")
                && svg.contains("at the nozzle, psi")
                && !svg.contains("NaN"),
            "{svg}"
        );
    }
    assert!(
        nozzle_curve(nozzle, c.class(nozzle.kind), &[], Over::Throw, UnitSystem::Metric)
            .contains("Radius, m")
    );
}

#[test]
fn an_assembly_is_drawn_part_by_part_and_what_is_wrong_is_ringed() {
    use fenlo_core::assembly::{Around, Start, Train, faults};
    use fenlo_core::catalogue::Catalogue;
    use fenlo_core::plan::Valve;
    let mut valve = Start::HoseBib.fit(&Valve::new("v1", "Pots", "s1"), Flow::from_gpm(1.0), Length::ZERO);
    let around = Around {
        at_rest: Pressure::from_psi(60.0),
        flow: Flow::from_gpm(1.0),
        top: None,
        room: Pressure::from_psi(10.0),
    };
    let drawn = |valve: &Valve| {
        let train = Train::of(Catalogue::builtin(), valve);
        let wrong = faults(&train, &valve.assembly, &around);
        (crate::assembly(&train, &wrong, UnitSystem::Us), wrong.len())
    };
    let (sound, none) = drawn(&valve);
    assert_eq!(none, 0);
    assert_eq!(sound.matches(r#"r="31""#).count(), 0);
    for number in 1..=8 {
        assert!(sound.contains(&format!(">{number}</text>")), "{number}");
    }
    valve.assembly.parts.swap(3, 4);
    let (broken, one) = drawn(&valve);
    assert_eq!((broken.matches(r#"r="31""#).count(), one), (1, 1));
    valve.assembly.parts[4].reversed = true;
    assert!(drawn(&valve).0.contains("scale(-1 1)"), "what points against the flow is drawn so");
}

#[test]
fn the_sheet_to_measure_against_is_drawn_at_its_true_size() {
    let sheet = crate::measure_sheet();
    assert!(
        sheet.contains(r#"width="210mm" height="270mm" viewBox="0 0 210 270""#),
        "a unit is a millimetre"
    );
    // 3/4 in pipe thread is 26.67 mm outside, hose thread 26.99: alike, and told apart.
    assert!(sheet.contains(r#"r="13.335""#) && sheet.contains(r#"r="13.495""#));
    assert!(sheet.contains("M15 252h100") && sheet.contains("M15 264h101.6"));
}

#[test]
fn drip_is_drawn_with_every_emitter_and_its_inlet_is_no_throw() {
    use fenlo_core::drip::{DripWish, design};
    use fenlo_core::job::Job;
    use fenlo_core::plan::Plan;
    use fenlo_core::site::{Area, ObjectKind, Outline, Point, Shape, SiteObject};
    let mut plan = Plan::new("Bed", UnitSystem::Us);
    let corners = [(0.0, 0.0), (6.0, 0.0), (6.0, 2.0), (0.0, 2.0)].map(|(x, y)| Point::new(x, y));
    plan.site.objects.push(SiteObject {
        id: "a1".into(),
        name: "Bed <1>".into(),
        what: ObjectKind::Area(Area { shape: Shape::plain(Outline::straight(&corners)), ..Area::default() }),
    });
    let job = Job::new(plan);
    let made = design(&job, "a1", &DripWish::default(), None).unwrap();
    let (job, _) = job.apply(&made.edit).unwrap();
    let group = &job.groups[0];
    let svg = crate::board::drip(&job, group);
    assert_eq!(svg.matches("h0").count(), 2 * made.parts[0].emitters.len(), "once wet, once as a dot");
    assert!(svg.contains("Bed &lt;1&gt;") && !svg.contains("<1>"));
    let assessment = fenlo_core::assess::assess(&job);
    let inlet = crate::board::head(&job, &assessment, group, &group.drawn[0]);
    assert!(inlet.contains("inlet") && !inlet.contains("throw"), "{inlet}");
}
