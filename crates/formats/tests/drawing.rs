//! Drawings from other tools, our own written and read again, and files that mean harm.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use fenlo_core::job::Job;
use fenlo_core::plan::{Joint, JointKind, LegOf, PipeLeg, Plan, Valve};
use fenlo_core::site::{
    Area, AreaKind, DryKind, Form, KeepDry, ObjectKind, Outline, Path, PlaceKind, PlaceMark, Planting, Point,
    Shape, SiteObject, SpotHeight, Vertex,
};
use fenlo_core::units::{Length, UnitSystem};
use fenlo_formats::drawing::{
    Drawing, Imported, LayerUse, guess, import, joined, read_dxf, read_geojson, write_dxf, write_geojson,
};
use proptest::prelude::*;
use std::collections::BTreeMap;

fn file(name: &str) -> Vec<u8> {
    std::fs::read(format!("{}/tests/drawings/{name}", env!("CARGO_MANIFEST_DIR"))).unwrap()
}
/// Everything in, as guessed, joined within a thousandth of the file's unit.
fn guessed(drawing: &Drawing, metres: Option<f64>) -> Imported {
    let drawing = &joined(drawing, 1e-3).0;
    let uses: BTreeMap<String, LayerUse> =
        drawing.layers.keys().map(|n| (n.clone(), LayerUse::parse(guess(n)).unwrap())).collect();
    let mut n = 0;
    import(drawing, &uses, metres, || {
        n += 1;
        format!("i{n}")
    })
    .unwrap()
}
fn area(thing: &SiteObject) -> f64 {
    thing.shape().unwrap().area_m2()
}
fn of_kind<'a>(things: &'a [SiteObject], word: &str) -> Vec<&'a SiteObject> {
    things.iter().filter(|t| t.kind_word() == word).collect()
}
const FT2: f64 = 0.3048 * 0.3048;

#[test]
fn a_drawing_in_feet_by_another_tool_comes_in_to_the_millimetre() {
    let drawing = read_dxf(&file("plot-feet.dxf")).unwrap();
    assert_eq!(drawing.metres, Some(0.3048));
    assert!(
        ["dimensions on", "filled faces on"].iter().all(|w| drawing.unused.keys().any(|k| k.starts_with(w))),
        "{:?}",
        drawing.unused
    );
    let in_ = guessed(&drawing, drawing.metres);
    let lawns = of_kind(&in_.things, "Lawn");
    assert_eq!(lawns.len(), 2);
    assert!((area(lawns[0]) - 2400.0 * FT2).abs() < 1e-6, "40 by 60 ft");
    assert!(
        (area(lawns[1]) - std::f64::consts::PI * 25.0 * FT2).abs() < 1e-6,
        "two half circles of 5 ft joined"
    );
    // Five loose lines, one of them the wrong way round, make a house of 30 by 25 ft.
    assert!((area(of_kind(&in_.things, "Building")[0]) - 750.0 * FT2).abs() < 1e-6);
    // A bed of 10 by 10 ft with half a circle on its side.
    let bed = of_kind(&in_.things, "Bed")[0];
    assert!((area(bed) - (100.0 + std::f64::consts::PI * 12.5) * FT2).abs() < 1e-6);
    assert!(bed.shape().unwrap().outline.0.iter().any(|v| v.bulge == 1.0), "the arc stays one");
    // A spline as a fence: its ends where they were drawn.
    let fence = of_kind(&in_.things, "Wall")[0].line().unwrap();
    assert!(
        fence.0[0].at.distance(Point::new(0.0, 70.0 * 0.3048)) < 1e-6
            && fence.0.last().unwrap().at.distance(Point::new(40.0 * 0.3048, 70.0 * 0.3048)) < 1e-6
    );
    // Circles are plants, those of a block placed at twice its size too.
    let canopies: Vec<f64> = of_kind(&in_.things, "Plant")
        .iter()
        .map(|t| if let ObjectKind::Plant(p) = &t.what { p.canopy.ft() } else { 0.0 })
        .collect();
    assert_eq!(canopies.iter().map(|c| c.round()).collect::<Vec<_>>(), [12.0, 8.0, 4.0]);
    let heights: Vec<f64> = of_kind(&in_.things, "Spot elevation")
        .iter()
        .map(|t| if let ObjectKind::Height(h) = &t.what { h.height.ft() } else { 0.0 })
        .collect();
    assert!(
        (heights[0] - 1.5).abs() < 1e-9 && (heights[1] - 2.75).abs() < 1e-9,
        "a point with a height, and a number as text"
    );
    assert!(in_.things.iter().any(|t| matches!(&t.what, ObjectKind::Note(n) if n.text == "Gate wide")));
    // All of it is sound.
    let mut plan = Plan::new("In", UnitSystem::Us);
    plan.site.objects = in_.things;
    assert_eq!(Job::of(&plan).faults(), []);
}

#[test]
fn old_files_far_files_blocks_and_degrees() {
    let old = read_dxf(&file("lawn-r12.dxf")).unwrap();
    assert!((area(&guessed(&old, Some(0.001)).things[0]) - 108.0).abs() < 1e-9, "12 by 9 m in millimetres");
    let far = read_dxf(&file("no-unit.dxf")).unwrap();
    assert_eq!(far.metres, None, "asked for");
    let moved = guessed(&far, Some(1.0));
    assert!(
        moved.told[0].contains("far from its origin")
            && of_kind(&moved.things, "Lawn")[0].bounds().unwrap().0.norm() < 1e-6,
        "{:?}",
        moved.told
    );
    let ellipse = of_kind(&moved.things, "Bed");
    assert!((area(ellipse[0]) - std::f64::consts::PI * 3.0 * 1.5).abs() < 0.05, "{}", area(ellipse[0]));
    // Mirrored and turned blocks keep their size: 4 by 2 m with an arc of bulge 1/2 on the 2 m side.
    let blocks = read_dxf(&file("mirrored-block.dxf")).unwrap();
    let things = guessed(&blocks, blocks.metres).things;
    let (r, angle) = (2.0 * (1.0 + 0.25) / 2.0, 4.0 * 0.5f64.atan());
    let wanted = 8.0 + r * r / 2.0 * (angle - angle.sin());
    for thing in &things {
        assert!((area(thing) - wanted).abs() < 1e-6, "{} {wanted}", area(thing));
    }
    let globe = read_geojson(&file("lon-lat.geojson")).unwrap();
    assert!(globe.maybe_degrees);
    let lawn = &guessed(&globe, None).things[0];
    // By hand at 51.5 degrees: 69440.5 m to a degree of longitude, 111257.8 of latitude.
    assert!((area(lawn) - 0.0002883 * 69_440.5 * 0.0000899 * 111_257.8).abs() < 0.01, "{}", area(lawn));
    assert_eq!(lawn.name, "South lawn");
}

fn sample() -> Plan {
    let mut plan = Plan::new("Round trip", UnitSystem::Metric);
    let bent = Outline(vec![
        Vertex::new(0.123_456, 0.0),
        Vertex { at: Point::new(12.5, 0.25), bulge: 0.4 },
        Vertex::new(12.5, 9.0),
        Vertex { at: Point::new(0.0, 9.0), bulge: -0.2 },
    ]);
    let hole = Outline(vec![
        Vertex { at: Point::new(4.0, 4.0), bulge: 1.0 },
        Vertex { at: Point::new(6.0, 4.0), bulge: 1.0 },
    ]);
    let mut put = |id: &str, what: ObjectKind| {
        plan.site.objects.push(SiteObject { id: id.into(), name: format!("Thing {id}"), what })
    };
    put(
        "a1",
        ObjectKind::Area(Area {
            kind: AreaKind::Vegetables,
            shape: Shape { outline: bent.clone(), holes: vec![hole] },
            ..Area::default()
        }),
    );
    put(
        "d1",
        ObjectKind::Dry(KeepDry {
            kind: DryKind::CarPark,
            height: None,
            form: Form::Region(Shape::plain(Outline(
                bent.0
                    .iter()
                    .map(|v| Vertex { at: Point::new(v.at.x + 30.0, v.at.y - 50.0), bulge: v.bulge })
                    .collect(),
            ))),
        }),
    );
    put(
        "d2",
        ObjectKind::Dry(KeepDry {
            kind: DryKind::Wall,
            height: None,
            form: Form::Line(Path(vec![
                Vertex { at: Point::new(-5.0, 0.0), bulge: 0.5 },
                Vertex::new(-5.0, 8.0),
                Vertex::new(-9.0, 8.0),
            ])),
        }),
    );
    put(
        "p1",
        ObjectKind::Place(PlaceMark { kind: PlaceKind::ValveBox, at: Point::new(3.0, -2.0), supply: None }),
    );
    put(
        "l1",
        ObjectKind::Plant(Planting {
            canopy: Length::from_m(1.4),
            at: Point::new(1.0, 20.0),
            to: None,
            count: 1,
        }),
    );
    put("h1", ObjectKind::Height(SpotHeight { at: Point::new(7.0, 7.0), height: Length::from_m(-0.35) }));
    plan
}

/// Furthest that any corner of one shape lies from the other's edge.
fn apart(a: &Outline, b: &Outline) -> f64 {
    let (a, b) = (a.flat(0.0001), b.flat(0.0001));
    let off = |p: &Point, ring: &[Point]| {
        ring.iter()
            .zip(ring.iter().cycle().skip(1))
            .map(|(u, v)| {
                let d = *v - *u;
                let t = if d.dot(d) > 0.0 { ((*p - *u).dot(d) / d.dot(d)).clamp(0.0, 1.0) } else { 0.0 };
                p.distance(*u + d * t)
            })
            .fold(f64::MAX, f64::min)
    };
    a.iter().map(|p| off(p, &b)).chain(b.iter().map(|p| off(p, &a))).fold(0.0, f64::max)
}

#[test]
fn what_we_write_comes_back_within_a_millimetre() {
    let plan = sample();
    assert_eq!(Job::of(&plan).faults(), []);
    for (format, drawing) in [
        ("dxf", read_dxf(&write_dxf(&Job::of(&plan))).unwrap()),
        ("geojson", read_geojson(write_geojson(&Job::new(plan.clone())).as_bytes()).unwrap()),
    ] {
        assert_eq!(drawing.metres, Some(1.0), "{format}");
        let back = guessed(&drawing, Some(1.0)).things;
        for kind in ["Vegetable rows", "Parking lot"] {
            let (was, is) = (of_kind(&plan.site.objects, kind), of_kind(&back, kind));
            let was = was[0].shape().unwrap();
            // A ring of DXF has no holes: the hole is an outline of its own.
            let outlines: Vec<&Outline> = is.iter().flat_map(|t| t.shape().unwrap().rings()).collect();
            for ring in was.rings() {
                let near = outlines.iter().map(|o| apart(ring, o)).fold(f64::MAX, f64::min);
                assert!(near < 0.001, "{format}, {kind}: {near} m");
            }
        }
        let wall = of_kind(&back, "Wall")[0].line().unwrap().length();
        assert!(
            (wall - of_kind(&plan.site.objects, "Wall")[0].line().unwrap().length()).abs() < 0.001,
            "{format}"
        );
        let spot = of_kind(&back, "Spot elevation");
        assert!(
            matches!(&spot[0].what, ObjectKind::Height(h) if (h.height.m() + 0.35).abs() < 1e-9),
            "{format}"
        );
        assert!(
            matches!(&of_kind(&back, "Valve box")[0].what, ObjectKind::Place(p) if p.at.distance(Point::new(3.0, -2.0)) < 1e-9),
            "{format}"
        );
    }
}

#[test]
fn pipe_goes_out_on_layers_of_its_own_and_comes_in_again() {
    let mut plan = sample();
    plan.valves.push(Valve::new("v1", "Lawn", "s1"));
    let joint = |id: &str, x: f64| Joint { id: id.into(), kind: JointKind::Tee, at: Point::new(x, 3.0) };
    plan.piping.joints = vec![joint("j1", 1.0), joint("j2", 9.0)];
    let pipe = |id: &str, of: LegOf| PipeLeg {
        bends: vec![Point::new(5.0, 4.5)],
        ..PipeLeg::straight(id, of, "j1", "j2", "class-200 1in".parse().unwrap())
    };
    plan.piping.legs = vec![pipe("p1", LegOf::Main("s1".into())), pipe("p2", LegOf::Lateral("v1".into()))];
    let job = Job::new(plan.clone());
    let dxf = read_dxf(&write_dxf(&job)).unwrap();
    let geo = read_geojson(write_geojson(&Job::new(plan.clone())).as_bytes()).unwrap();
    assert!(dxf.layers.contains_key("trenches") && dxf.layers.contains_key("joint-tee"));
    for drawing in [dxf, geo] {
        let back = guessed(&drawing, Some(1.0));
        assert_eq!(back.pipes.len(), 2, "{:?}", drawing.layers.keys());
        for (of, way) in &back.pipes {
            assert!([LegOf::Main("s1".into()), LegOf::Lateral("v1".into())].contains(of));
            let want = [Point::new(1.0, 3.0), Point::new(5.0, 4.5), Point::new(9.0, 3.0)];
            assert!(way.len() == 3 && way.iter().zip(want).all(|(a, b)| a.distance(b) < 0.001), "{way:?}");
        }
        // Joints, sizes and trenches come back with the pipe, not as things.
        assert!(back.things.iter().all(|t| !t.name.contains("class-200")));
    }
}

fn refused(bytes: &[u8]) -> String {
    read_dxf(bytes).unwrap_err().to_string()
}

#[test]
fn hostile_dxf_is_refused_with_its_line_or_element() {
    let good = file("plot-feet.dxf");
    for share in [0.3, 0.5, 0.999] {
        assert_eq!(
            refused(&good[..(good.len() as f64 * share) as usize]),
            "file: is incomplete; the upload was cut off"
        );
    }
    assert!(refused(b"hello\nworld\n").starts_with("line 1: ‘hello’ is not a code of DXF"));
    assert_eq!(refused(b""), "file: is not DXF: it has no sections");
    assert_eq!(refused(&[0u8; 100]), "file: is binary: save it as DXF in ASCII");
    assert!(refused(&vec![b' '; 25_000_001]).contains("at most 25 MB"));
    assert!(
        refused(&file("recursive.dxf")).contains("contains itself"),
        "{}",
        refused(&file("recursive.dxf"))
    );
    assert!(
        refused(("0\nPOINT\n".repeat(400_001) + "0\nEOF\n").as_bytes()).contains("at most 400000 are read")
    );
    // A figure that is none, and one off the earth.
    let line = |figure: &str| {
        format!(
            "0\nSECTION\n2\nENTITIES\n0\nLINE\n8\nX\n10\n{figure}\n20\n0\n11\n1\n21\n1\n0\nENDSEC\n0\nEOF\n"
        )
    };
    assert!(
        refused(line("forty").as_bytes()).starts_with("file: line 1"),
        "{}",
        refused(line("forty").as_bytes())
    );
    for figure in ["nan", "1e12", "inf"] {
        let bad = line(figure);
        assert!(
            refused(bad.as_bytes()).starts_with("element 1: has an invalid or far-away coordinate"),
            "{figure}: {}",
            refused(bad.as_bytes())
        );
    }
    // Blocks of blocks of blocks, a hundred inserts in each: stopped before memory is.
    let mut bomb = String::from("0\nSECTION\n2\nBLOCKS\n");
    for level in 0..8 {
        bomb += &format!("0\nBLOCK\n8\n0\n2\nB{level}\n70\n0\n10\n0\n20\n0\n30\n0\n");
        bomb += &if level == 0 {
            "0\nPOINT\n8\nX\n10\n1\n20\n1\n30\n0\n".to_owned()
        } else {
            format!("0\nINSERT\n8\n0\n2\nB{}\n10\n0\n20\n0\n30\n0\n", level - 1).repeat(100)
        };
        bomb += "0\nENDBLK\n8\n0\n";
    }
    bomb += "0\nENDSEC\n0\nSECTION\n2\nENTITIES\n0\nINSERT\n8\n0\n2\nB7\n10\n0\n20\n0\n30\n0\n0\nENDSEC\n0\nEOF\n";
    assert!(refused(bomb.as_bytes()).contains("grows beyond"), "{}", refused(bomb.as_bytes()));
}

#[test]
fn an_outline_of_a_hundred_thousand_corners_is_thinned_and_told() {
    let n = 100_000;
    let ring: Vec<String> = (0..=n)
        .map(|i| f64::from(i % n) / f64::from(n) * std::f64::consts::TAU)
        .map(|t| format!("[{},{}]", 900.0 + 500.0 * t.cos(), 900.0 + 500.0 * t.sin()))
        .collect();
    let json = format!(
        r#"{{"type":"FeatureCollection","features":[{{"type":"Feature","properties":{{"kind":"lawn"}},
            "geometry":{{"type":"Polygon","coordinates":[[{}]]}}}}]}}"#,
        ring.join(",")
    );
    let drawing = read_geojson(json.as_bytes()).unwrap();
    let in_ = guessed(&drawing, Some(1.0));
    assert!(in_.told[0].contains("was simplified to"), "{:?}", in_.told);
    let shape = in_.things[0].shape().unwrap();
    assert!(shape.outline.0.len() <= 1_000 && shape.check().is_ok());
    assert!((shape.area_m2() / (std::f64::consts::PI * 250_000.0) - 1.0).abs() < 1e-3);
}

#[test]
fn hostile_geojson_is_refused_with_its_feature() {
    let said = |text: &str| read_geojson(text.as_bytes()).unwrap_err().to_string();
    let feature = |coordinates: &str| {
        format!(
            r#"{{"type":"FeatureCollection","features":[{{"type":"Feature","properties":{{}},
                "geometry":{{"type":"Point","coordinates":{coordinates}}}}}]}}"#
        )
    };
    assert!(said(&feature("[1e300,0]")).starts_with("feature 1: has a coordinate further off"));
    assert!(said(&feature("[1]")).starts_with("feature 1"));
    assert!(said(&feature("\"x\"")).starts_with("feature 1"));
    assert!(
        said(&feature(&format!("{}{}", "[".repeat(100_000), "]".repeat(100_000)))).starts_with("feature 1")
    );
    assert!(said("{}").contains("type: is missing") && said("").contains("line 1"));
    assert!(said("[]").contains("a FeatureCollection is expected"));
    // Script in names and texts stays text; control characters go.
    let json = r#"{"type":"FeatureCollection","features":[{"type":"Feature","properties":{"kind":"lawn",
        "name":"<script>alert(1)</script>\u0007"},"geometry":{"type":"Polygon","coordinates":[[[0,0],
        [4,0],[4,4],[0,0]]]}}]}"#;
    assert_eq!(
        guessed(&read_geojson(json.as_bytes()).unwrap(), Some(1.0)).things[0].name,
        "<script>alert(1)</script>"
    );
    // Outlines that cross themselves are left out, and told.
    let bow = r#"{"type":"FeatureCollection","features":[{"type":"Feature","properties":{"kind":"lawn"},
        "geometry":{"type":"Polygon","coordinates":[[[0,0],[400,400],[400,0],[0,400],[0,0]]]}}]}"#;
    let in_ = guessed(&read_geojson(bow.as_bytes()).unwrap(), Some(1.0));
    assert!(in_.things.is_empty() && in_.told[0].contains("crosses or touches itself"), "{:?}", in_.told);
}

proptest! {
    #![proptest_config(ProptestConfig {
        cases: 150,
        rng_seed: proptest::test_runner::RngSeed::Fixed(20_261_126),
        ..ProptestConfig::default()
    })]

    #[test]
    fn no_damage_to_a_drawing_makes_a_reader_panic(
        at in 0.0..1.0f64,
        what in prop::collection::vec(any::<u8>(), 0..12),
        cut in any::<bool>(),
        which in 0..3usize,
    ) {
        let mut bytes = file(["plot-feet.dxf", "mirrored-block.dxf", "lon-lat.geojson"][which]);
        let i = ((bytes.len() - 1) as f64 * at) as usize;
        if cut { bytes.truncate(i) } else { bytes.splice(i..(i + what.len()).min(bytes.len()), what.iter().copied()).for_each(drop) }
        let read = if which == 2 { read_geojson(&bytes) } else { read_dxf(&bytes) };
        if let Ok(drawing) = read {
            let mut plan = Plan::new("Damaged", UnitSystem::Us);
            plan.site.objects = guessed(&drawing, Some(1.0)).things;
            // What comes in is sound, or the edit that brings it in is refused: never half of it.
            let _ = Job::of(&plan).faults();
        }
    }
}

#[test]
fn drip_goes_out_as_it_is_laid_and_is_left_out_when_it_comes_back() {
    use fenlo_core::drip::{DripWish, design};
    let mut plan = Plan::new("Bed", fenlo_core::units::UnitSystem::Us);
    let corners = [(0.0, 0.0), (6.0, 0.0), (6.0, 2.0), (0.0, 2.0)].map(|(x, y)| Point::new(x, y));
    plan.site.objects.push(SiteObject {
        id: "a1".into(),
        name: "Bed".into(),
        what: ObjectKind::Area(Area { shape: Shape::plain(Outline::straight(&corners)), ..Area::default() }),
    });
    let job = Job::new(plan);
    let made = design(&job, "a1", &DripWish::default(), None).unwrap();
    let rows = made.parts[0].rows.len();
    let (job, _) = job.apply(&made.edit).unwrap();
    let dxf = read_dxf(&write_dxf(&job)).unwrap();
    let geo = read_geojson(write_geojson(&job).as_bytes()).unwrap();
    assert_eq!(dxf.layers["drip-rows"].open.len(), rows);
    for drawing in [dxf, geo] {
        assert!(drawing.layers.keys().any(|k| k.starts_with("drip-rows")), "{:?}", drawing.layers.keys());
        assert!(!drawing.layers.keys().any(|k| k == "heads" || k == "throw"), "inlets are no heads");
        let back = guessed(&drawing, Some(1.0));
        assert_eq!(back.things.len(), 1, "only the bed comes back");
    }
}
