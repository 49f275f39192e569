//! What other tools draw and other libraries write: loose lines, rings in rings, blocks stretched and turned
//! over, letters of other code pages, layers that are off; areas and places known by hand
//! (drawings/README.md).

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use fenlo_core::site::{ObjectKind, Point, SiteObject};
use fenlo_formats::drawing::{Drawing, Imported, Joined, LayerUse, guess, import, joined, read_dxf};
use std::collections::BTreeMap;
use std::f64::consts::PI;

fn drawing(name: &str) -> Drawing {
    let path = format!("{}/tests/drawings/{name}.dxf", env!("CARGO_MANIFEST_DIR"));
    read_dxf(&std::fs::read(path).unwrap()).unwrap()
}

fn brought(drawing: &Drawing, metres: f64, near: f64) -> Imported {
    let whole = joined(drawing, near / metres).0;
    let uses: BTreeMap<String, LayerUse> =
        whole.layers.keys().map(|n| (n.clone(), LayerUse::parse(guess(n)).unwrap())).collect();
    let mut n = 0;
    import(&whole, &uses, Some(metres), || {
        n += 1;
        format!("i{n}")
    })
    .unwrap()
}

fn areas(imported: &Imported, word: &str) -> Vec<f64> {
    let of = |t: &&SiteObject| t.kind_word() == word;
    let mut areas: Vec<f64> =
        imported.things.iter().filter(of).map(|t| t.shape().unwrap().area_m2()).collect();
    areas.sort_by(|a, b| b.total_cmp(a));
    areas
}

fn near(a: f64, b: f64) -> bool {
    (a - b).abs() < 1e-6
}

#[test]
fn rings_in_rings_are_holes_and_rings_in_holes_are_ground_again() {
    let drawing = drawing("joined");
    let (_, told) = joined(&drawing, 0.001);
    assert_eq!(told.holes, 1);
    let in_ = brought(&drawing, 1.0, 0.001);
    let lawns = areas(&in_, "Lawn");
    assert!(lawns.len() == 2 && near(lawns[0], 320.0 - 25.0) && near(lawns[1], 1.0), "{lawns:?}");
}

#[test]
fn lines_that_miss_one_another_join_within_the_tolerance_and_not_beyond() {
    let drawing = drawing("joined");
    // The gaps are 3 mm: open at 1 mm, one house at 5 mm; the line drawn twice is taken once.
    assert_eq!(areas(&brought(&drawing, 1.0, 0.001), "Building"), [0.0; 0]);
    let house = areas(&brought(&drawing, 1.0, 0.005), "Building");
    assert!(house.len() == 1 && (house[0] - 80.0).abs() < 0.05, "{house:?}");
    assert_eq!(joined(&drawing, 0.005).1, Joined { twice: 1, holes: 1 });
}

#[test]
fn heights_come_from_points_at_zero_too_and_from_words() {
    let in_ = brought(&drawing("joined"), 1.0, 0.001);
    let height = |t: &SiteObject| match &t.what {
        ObjectKind::Height(h) => Some(h.height.m()),
        _ => None,
    };
    let mut heights: Vec<f64> = in_.things.iter().filter_map(height).collect();
    heights.sort_by(f64::total_cmp);
    assert_eq!(heights, [-0.35, 0.0, 0.75, 1.2, 12.5, 12.5]);
    assert!(in_.told.iter().any(|t| t.contains("‘spot levels’: 1 text without")), "{:?}", in_.told);
}

#[test]
fn a_spline_of_points_that_it_goes_through_is_a_curve() {
    let drawing = drawing("joined");
    let line = &drawing.layers["fit fence"].open[0];
    assert!(line.0.len() > 20);
    assert!(line.0.iter().any(|v| v.at.distance(Point::new(5.0, -5.0)) < 1e-6));
    assert!(line.length() > 2.0 * 50f64.sqrt() + 0.2, "longer than its chords: {}", line.length());
}

#[test]
fn blocks_are_stretched_turned_over_and_take_the_layer_that_they_stand_on() {
    let drawing = drawing("blocks");
    assert!(!drawing.layers.contains_key("0"), "layer 0 in a block is the layer of the block");
    let area = |layer: &str, i: usize| drawing.layers[layer].closed[i].0.area_m2();
    // 3 x (16 + 2 pi) = 66.85.
    assert!((area("lawn", 0) - 3.0 * (16.0 + 2.0 * PI)).abs() < 0.01, "{}", area("lawn", 0));
    assert!(near(area("bed", 0), 16.0 + 2.0 * PI) && near(area("bed", 1), 16.0 + 2.0 * PI));
    // Seen from below at x = -100, its square lies from 100 leftwards to 96, and its half circle left of
    // that.
    let turned = &drawing.layers["bed"].closed[1].0.outline;
    let xs: Vec<f64> = turned.flat(1e-4).iter().map(|p| p.x).collect();
    let (low, high) = xs.iter().fold((f64::MAX, f64::MIN), |(l, h), x| (l.min(*x), h.max(*x)));
    assert!((low - 94.0).abs() < 1e-3 && (high - 100.0).abs() < 1e-9, "{low} to {high}");
    // Its arc of a quarter turn ran from 0 to 90 degrees: now it lies left of its centre at 100.
    let arcs: Vec<&fenlo_core::site::Path> = drawing.layers["trees"].open.iter().collect();
    let arc = arcs.iter().find(|a| a.0[0].at.distance(Point::new(99.0, 0.0)) < 1e-6).unwrap();
    let along = arc.flat(1e-4);
    assert!(
        along.iter().all(|p| (p.distance(Point::new(100.0, 0.0)) - 1.0).abs() < 1e-3 && p.x <= 100.0 + 1e-9)
    );
    // A quarter of an ellipse seen from below goes the other way round: from (204, 0) down to (200, -2).
    let ellipse = arcs.iter().find(|a| a.0[0].at.distance(Point::new(204.0, 0.0)) < 1e-6).unwrap();
    assert!(ellipse.0.last().unwrap().at.distance(Point::new(200.0, -2.0)) < 1e-6);
}

#[test]
fn what_is_left_out_is_listed_by_its_layer_and_what_is_off_is_known_to_be() {
    let drawing = drawing("left-out");
    let counted = |what: &str| drawing.unused.get(what).copied();
    assert_eq!(counted("hatches on ‘hatching’"), Some(3), "{:?}", drawing.unused);
    assert_eq!(counted("meshes on ‘hatching’"), Some(1));
    assert_eq!(counted("external references on ‘lawn’"), Some(1));
    assert!(drawing.unused.keys().any(|k| k.starts_with("leaders with words")));
    let hidden = |layer: &str| drawing.layers[layer].hidden.as_deref();
    assert_eq!(hidden("frozen bed"), Some("frozen"));
    assert_eq!(hidden("off bed"), Some("off"));
    assert_eq!(hidden("lawn, invisible"), Some("invisible"));
    assert_eq!(hidden("lawn"), None);
    assert_eq!(drawing.layers["lawn"].closed.len(), 1);
}

#[test]
fn an_r12_file_with_named_arrow_blocks_reads() {
    let drawing = drawing("r12-arrows");
    assert!(near(drawing.layers["lawn"].closed[0].0.area_m2(), 50.0));
}

#[test]
fn letters_of_other_code_pages_read() {
    let old = drawing("cp1251");
    assert!(old.layers.contains_key("Газон"), "{:?}", old.layers.keys());
    assert_eq!(old.layers["notes"].texts[0].1, "Яблоня у ворот");
    for (file, layer, words) in [
        ("cp932", "芝生", "庭の入口 ｱ"),
        ("cp1253", "Γκαζόν", "Ελιά στη γωνία"),
        ("cp1252", "Gärten", "Überlauf 50 €"),
    ] {
        let page = drawing(file);
        assert!(near(page.layers[layer].closed[0].0.area_m2(), 16.0), "{file}: {:?}", page.layers.keys());
        assert_eq!(page.layers["notes"].texts[0].1, words, "{file}");
    }
    let new = drawing("utf8");
    assert!(new.layers.contains_key("草坪 lawn"));
    let words = &new.layers["notes"].texts[0].1;
    assert!(words.starts_with("东 gate ⌀ 50 xxx") && words.len() > 300, "{words}");
}

#[test]
fn sixty_thousand_loose_lines_join_into_their_squares() {
    // 15,000 squares of 1 by 1, each of four lines in an order of its own.
    let mut drawing = Drawing { loose: true, ..Drawing::default() };
    let layer = drawing.layers.entry("lawn".into()).or_default();
    let corner = |i: usize, k: usize| {
        let (x, y) = ((i % 150) as f64 * 2.0, (i / 150) as f64 * 2.0);
        [(x, y), (x + 1.0, y), (x + 1.0, y + 1.0), (x, y + 1.0)][k % 4]
    };
    for k in [2, 0, 3, 1] {
        for i in 0..15_000 {
            let (a, b) = (corner(i, k), corner(i, k + 1));
            let ends = if i % 2 == 0 { [a, b] } else { [b, a] };
            let ends = ends.map(|(x, y)| fenlo_core::site::Vertex::new(x, y));
            layer.open.push(fenlo_core::site::Path(ends.to_vec()));
        }
    }
    let (whole, told) = joined(&drawing, 0.001);
    let lawn = &whole.layers["lawn"];
    assert_eq!((lawn.closed.len(), lawn.open.len(), told.twice), (15_000, 0, 0));
    assert!(lawn.closed.iter().all(|(s, _)| near(s.area_m2(), 1.0)));
}

#[test]
fn our_own_file_comes_back_with_its_holes_and_names_and_says_how_far_it_reaches() {
    use fenlo_core::plan::Plan;
    use fenlo_core::site::{Area, Outline, Shape, Vertex};
    use fenlo_core::units::UnitSystem;
    let ring = |x: f64, y: f64, w: f64, h: f64| {
        Outline(vec![
            Vertex::new(x, y),
            Vertex::new(x + w, y),
            Vertex::new(x + w, y + h),
            Vertex::new(x, y + h),
        ])
    };
    let lawn = |id: &str, name: &str, shape: Shape| SiteObject {
        id: id.into(),
        name: name.into(),
        what: ObjectKind::Area(Area { shape, ..Area::default() }),
    };
    let mut plan = Plan::new("Own", UnitSystem::Metric);
    let with_hole = Shape { outline: ring(0.0, 0.0, 20.0, 16.0), holes: vec![ring(1.0, 1.0, 3.0, 3.0)] };
    plan.site.objects.push(lawn("a1", "Front", with_hole));
    // Drawn on top of the first: ground of its own, and no hole.
    plan.site.objects.push(lawn("a2", "Croquet", Shape::plain(ring(10.0, 8.0, 6.0, 5.0))));
    plan.site.objects.push(lawn("a3", "", Shape::plain(ring(30.0, 0.0, 4.0, 4.0))));
    let file = fenlo_formats::drawing::write_dxf(&fenlo_core::job::Job::of(&plan));
    let text = String::from_utf8_lossy(&file).into_owned();
    let after = |name: &str| {
        let lines: Vec<&str> = text.lines().map(str::trim).collect();
        let at = lines.iter().position(|l| *l == name).unwrap();
        (lines[at + 2].parse::<f64>().unwrap(), lines[at + 4].parse::<f64>().unwrap())
    };
    assert_eq!((after("$EXTMIN"), after("$EXTMAX")), ((0.0, 0.0), (34.0, 16.0)));
    let back = brought(&read_dxf(&file).unwrap(), 1.0, 0.001);
    let mut found: Vec<(String, usize, f64)> = (back.things.iter())
        .map(|t| (t.name.clone(), t.shape().unwrap().holes.len(), t.shape().unwrap().area_m2().round()))
        .collect();
    found.sort_by(|a, b| b.2.total_cmp(&a.2));
    let want = [("Front", 1, 311.0), ("Croquet", 0, 30.0), ("", 0, 16.0)];
    assert_eq!(found, want.map(|(n, h, a)| (n.to_owned(), h, a)));
}

#[test]
fn geojson_of_one_feature_or_a_bare_geometry_reads_and_faults_are_in_plain_words() {
    use fenlo_formats::drawing::read_geojson;
    let square = r#"{"type":"Polygon","coordinates":[[[0,0],[300,0],[300,200],[0,200],[0,0]]]}"#;
    let feature =
        format!(r#"{{"type":"Feature","properties":{{"layer":"lawn","name":"Front"}},"geometry":{square}}}"#);
    let one = read_geojson(feature.as_bytes()).unwrap();
    assert!(near(one.layers["lawn"].closed[0].0.area_m2(), 60_000.0));
    assert_eq!(one.layers["lawn"].closed[0].1, "Front");
    let bare = read_geojson(square.as_bytes()).unwrap();
    assert_eq!(bare.layers["Polygon"].closed.len(), 1);
    let said = |text: &str| read_geojson(text.as_bytes()).unwrap_err().to_string();
    for (text, words) in [
        (r#"{"type":"FeatureCollection","features":[]}"#, "is an empty collection"),
        (
            r#"{"type":"Topology","objects":{}}"#,
            "is ‘Topology’: a FeatureCollection, a Feature or a geometry is expected",
        ),
        (r#"{"features":[]}"#, "type: is missing"),
        (r#"{"type":"FeatureCollection","features":[{"type":"Fea"#, "incomplete"),
        (
            r#"{"type":"FeatureCollection","features":[{"type":"Feature","properties":{},"geometry":{"type":"Blob"}}]}"#,
            "feature 1",
        ),
        (r#"[1,2"#, "line 1"),
    ] {
        let told = said(text);
        assert!(told.contains(words), "{text}: {told}");
        assert!(!told.contains("Helper") && !told.contains("serde"), "{told}");
    }
}
