//! Known answers worked by hand, then what must hold for any shape.

use super::*;
use crate::units::{Length, M_PER_FT, UnitSystem};
use proptest::prelude::*;
use std::f64::consts::PI;

/// Corners in metres.
pub(crate) fn ring(points: &[(f64, f64)]) -> Outline {
    Outline(points.iter().map(|&(x, y)| Vertex::new(x, y)).collect())
}
pub(crate) fn rect(x: f64, y: f64, w: f64, h: f64) -> Shape {
    Shape::plain(ring(&[(x, y), (x + w, y), (x + w, y + h), (x, y + h)]))
}
pub(crate) fn lawn(id: &str, shape: Shape) -> SiteObject {
    SiteObject {
        id: id.into(),
        name: String::new(),
        what: ObjectKind::Area(Area { shape, ..Area::default() }),
    }
}
fn m(metres: f64) -> Length {
    Length::from_m(metres)
}
fn near(a: f64, b: f64) -> bool {
    (a - b).abs() < 1e-6
}
fn close(a: Point, x: f64, y: f64) -> bool {
    near(a.x, x) && near(a.y, y)
}

#[test]
fn area_and_perimeter_of_shapes_that_are_known() {
    let ft2 = |s: &Shape| s.area_m2() / (M_PER_FT * M_PER_FT);
    let f = M_PER_FT;
    let front = rect(0.0, 0.0, 40.0 * f, 60.0 * f);
    assert!(near(ft2(&front), 2400.0) && near(front.perimeter() / f, 200.0));
    // A circle of 25 ft radius as two half circles.
    let circle = Shape::plain(Outline(vec![
        Vertex { at: Point::new(-25.0 * f, 0.0), bulge: 1.0 },
        Vertex { at: Point::new(25.0 * f, 0.0), bulge: 1.0 },
    ]));
    assert!(near(ft2(&circle), PI * 625.0) && near(circle.perimeter() / f, 50.0 * PI));
    // A parking island 8 x 60 ft with rounded ends: 52 x 8 and a circle of 4 ft.
    let mut island = rect(4.0 * f, 0.0, 52.0 * f, 8.0 * f);
    island.outline.0[1].bulge = 1.0;
    island.outline.0[3].bulge = 1.0;
    assert!(near(ft2(&island), 416.0 + 16.0 * PI), "{}", ft2(&island));
    // The same way round or the other: the area is the same.
    assert!(near(island.outline.reversed().signed_area(), -island.outline.signed_area()));
    // A bite: an edge that bends inwards takes a half circle of 1 m away.
    let mut bite = rect(0.0, 0.0, 2.0, 2.0);
    bite.outline.0[0].bulge = -1.0;
    assert!(near(bite.area_m2(), 4.0 - PI / 2.0));
    let with_house = Shape {
        outline: ring(&[(0.0, 0.0), (10.0, 0.0), (10.0, 10.0), (0.0, 10.0)]),
        holes: vec![ring(&[(2.0, 2.0), (2.0, 4.0), (5.0, 4.0), (5.0, 2.0)])],
    };
    assert!(near(with_house.area_m2(), 94.0) && near(with_house.perimeter(), 50.0));
    assert!(with_house.contains(Point::new(1.0, 1.0)) && !with_house.contains(Point::new(3.0, 3.0)));
}

#[test]
fn two_tapes_meet_where_the_3_4_5_triangle_says() {
    let (a, b) = (Point::new(0.0, 0.0), Point::new(5.0, 0.0));
    let [left, right] = triangulate(a, m(3.0), b, m(4.0)).unwrap();
    assert!(close(left, 1.8, 2.4) && close(right, 1.8, -2.4));
    // Just meeting: one point.
    let [one, other] = triangulate(a, m(2.0), b, m(3.0)).unwrap();
    assert!(close(one, 2.0, 0.0) && one.distance(other) < 1e-3);
    let ft = |n: f64| Length::from_ft(n);
    let far = Point::new(ft(20.0).m(), 0.0);
    assert_eq!(
        triangulate(a, ft(8.0), far, ft(9.0)).unwrap_err().show(UnitSystem::Us),
        "tapes of 8 ft and 9 ft do not reach each other; the points are 20 ft apart"
    );
    assert!(triangulate(a, ft(30.0), far, ft(9.0)).unwrap_err().to_string().contains("is too long"));
    assert_eq!(triangulate(a, m(1.0), a, m(1.0)), Err(ConstructError::OnePoint));
    assert_eq!(triangulate(a, m(0.0), b, m(1.0)), Err(ConstructError::NotPositive));
}

#[test]
fn corners_are_cut_and_rounded_to_known_areas() {
    let square = rect(0.0, 0.0, 10.0, 10.0).outline;
    assert!(near(chamfer(&square, 1, m(2.0)).unwrap().signed_area(), 98.0));
    let rounded = round(&square, 2, m(2.0)).unwrap();
    assert!(near(rounded.signed_area(), 100.0 - (4.0 - PI)));
    assert!(near(rounded.perimeter(), 36.0 + PI));
    // An inner corner is filled: the L gains what the square lost.
    let l = ring(&[(0.0, 0.0), (10.0, 0.0), (10.0, 4.0), (4.0, 4.0), (4.0, 10.0), (0.0, 10.0)]);
    assert!(near(round(&l, 3, m(2.0)).unwrap().signed_area(), 64.0 + (4.0 - PI)));
    assert_eq!(chamfer(&square, 0, m(11.0)), Err(ConstructError::TooLong(m(11.0), m(10.0))));
    assert_eq!(chamfer(&square, 9, m(1.0)), Err(ConstructError::NoCorner(10)));
    assert_eq!(round(&rounded, 2, m(0.5)), Err(ConstructError::NotACorner));
}

#[test]
fn an_arc_goes_through_the_point_that_was_shown() {
    let (a, b) = (Point::new(0.0, 0.0), Point::new(10.0, 0.0));
    assert!(
        near(bend_through(a, b, Point::new(5.0, -5.0)).unwrap(), 1.0),
        "to the right of the chord: a turn to the left"
    );
    assert!(near(bend_through(a, b, Point::new(5.0, 5.0)).unwrap(), -1.0));
    let bulge = bend_through(a, b, Point::new(3.0, 1.0)).unwrap();
    let edge = Path(vec![Vertex { at: a, bulge }, Vertex::new(10.0, 0.0)]);
    let e = edge.edges().next().unwrap();
    assert!(near(e.centre().unwrap().distance(Point::new(3.0, 1.0)), e.radius().unwrap()));
    assert_eq!(bend_through(a, b, Point::new(4.0, 0.0)), Err(ConstructError::Flat));
    assert!(close(e.at(1.0), 10.0, 0.0) && near(e.at(0.5).x, 5.0));
}

#[test]
fn offsets_and_strips_have_known_areas() {
    let square = rect(0.0, 0.0, 10.0, 10.0).outline;
    assert!(
        near(offset(&square, m(1.0)).unwrap()[0].signed_area(), 100.0 + 40.0 + PI),
        "corners outside are rounded"
    );
    assert!(near(offset(&square.reversed(), m(-1.0)).unwrap()[0].signed_area(), 64.0));
    assert_eq!(offset(&square, m(-6.0)), Err(CombineError::NothingLeft));
    assert!(near(strip(&square, 0, m(2.0)).unwrap().signed_area(), 20.0));
    let outside = strip(&square, 0, m(2.0)).unwrap();
    assert!(outside.0.iter().all(|v| v.at.y <= 1e-9), "below the lower edge");
    assert!(
        strip(&square, 1, m(-1.5)).unwrap().0.iter().all(|v| v.at.x <= 10.0 + 1e-9 && v.at.x >= 8.5 - 1e-9)
    );
    // Along a half circle of 5 m, 1 m wide: half a ring.
    let mut round_end = square.clone();
    round_end.0[1].bulge = 1.0;
    assert!(near(strip(&round_end, 1, m(1.0)).unwrap().signed_area(), PI / 2.0 * (36.0 - 25.0)));
}

#[test]
fn ground_is_split_cut_and_joined_without_losing_any() {
    let square = rect(0.0, 0.0, 10.0, 10.0);
    let areas =
        |pieces: &[Shape]| pieces.iter().map(|p| (p.area_m2() * 1e6).round() / 1e6).collect::<Vec<_>>();
    assert_eq!(areas(&split(&square, Point::new(4.0, -1.0), Point::new(4.0, 11.0)).unwrap()), [60.0, 40.0]);
    assert_eq!(
        areas(&split(&square, Point::new(4.0, 0.0), Point::new(4.0, 10.0)).unwrap()),
        [60.0, 40.0],
        "from edge to edge"
    );
    assert_eq!(split(&square, Point::new(4.0, -1.0), Point::new(4.0, 5.0)), Err(CombineError::NotAcross));
    assert_eq!(split(&square, Point::new(14.0, -1.0), Point::new(14.0, 15.0)), Err(CombineError::NotAcross));
    let path = rect(4.0, -1.0, 2.0, 12.0);
    assert_eq!(areas(&cut(&square, &[&path]).unwrap()), [40.0, 40.0]);
    let inner = rect(4.0, 4.0, 2.0, 2.0);
    let holed = cut(&square, &[&inner]).unwrap();
    assert_eq!((areas(&holed), holed[0].holes.len()), (vec![96.0], 1));
    // The path through the hole: what the hole had is not taken twice.
    assert_eq!(areas(&cut(&holed[0], &[&path]).unwrap()), [40.0, 40.0]);
    assert_eq!(cut(&square, &[&rect(20.0, 0.0, 1.0, 1.0)]), Err(CombineError::NoOverlap));
    assert_eq!(cut(&inner, &[&square]), Err(CombineError::NothingLeft));
    // A ring of paving leaves the ground within it.
    let paving = Shape { holes: vec![rect(4.0, 4.0, 2.0, 2.0).outline], ..rect(3.0, 3.0, 4.0, 4.0) };
    assert_eq!(areas(&cut(&square, &[&paving]).unwrap()), [84.0, 4.0]);
    // Touching along an edge, overlapping, apart.
    assert!(near(join(&square, &rect(10.0, 0.0, 5.0, 10.0)).unwrap().area_m2(), 150.0));
    assert!(near(join(&square, &rect(8.0, 8.0, 4.0, 4.0)).unwrap().area_m2(), 112.0));
    assert_eq!(join(&square, &rect(20.0, 0.0, 5.0, 5.0)), Err(CombineError::Apart));
    assert!(near(join(&holed[0], &inner).unwrap().area_m2(), 100.0), "the hole is filled");
    // Arcs stay arcs.
    let mut dome = rect(0.0, 0.0, 10.0, 10.0);
    dome.outline.0[2].bulge = 1.0;
    let halves = split(&dome, Point::new(5.0, -1.0), Point::new(5.0, 20.0)).unwrap();
    assert!(
        near(halves[0].area_m2(), 50.0 + PI * 12.5 / 2.0)
            && halves[0].outline.0.iter().any(|v| v.bulge != 0.0)
    );
}

#[test]
fn unsound_shapes_are_named_for_what_they_are() {
    let fault = |points: &[(f64, f64)]| Shape::plain(ring(points)).check().unwrap_err();
    assert!(
        matches!(fault(&[(0.0, 0.0), (4.0, 4.0), (4.0, 0.0), (0.0, 4.0)]), ShapeFault::Crossing(p) if close(p, 2.0, 2.0))
    );
    assert_eq!(fault(&[(0.0, 0.0), (4.0, 0.0)]), ShapeFault::TooFew);
    assert_eq!(fault(&[]), ShapeFault::TooFew);
    assert_eq!(fault(&[(0.0, 0.0), (4.0, 0.0), (4.0, 0.0001), (0.0, 4.0)]), ShapeFault::Repeated(2, 3));
    assert_eq!(fault(&[(0.0, 0.0), (f64::NAN, 0.0), (4.0, 4.0)]), ShapeFault::Off(2));
    assert_eq!(fault(&[(0.0, 0.0), (1e12, 0.0), (4.0, 4.0)]), ShapeFault::Off(2));
    assert!(
        Shape::plain(ring(&[(0.0, 0.0), (4.0, 0.0), (8.0, 0.0)])).check().is_err(),
        "three corners in a line"
    );
    let mut bent = rect(0.0, 0.0, 4.0, 4.0);
    bent.outline.0[0].bulge = f64::INFINITY;
    assert_eq!(bent.check(), Err(ShapeFault::Bulge(1)));
    // A bend so deep that it leaves through the far side.
    bent.outline.0[0].bulge = -2.2;
    assert!(matches!(bent.check(), Err(ShapeFault::Crossing(_))));
    let hole = |x: f64| rect(x, 1.0, 2.0, 2.0).outline;
    let with = |holes: Vec<Outline>| Shape { holes, ..rect(0.0, 0.0, 10.0, 10.0) }.check();
    assert_eq!(with(vec![hole(1.0), hole(5.0)]), Ok(()));
    assert_eq!(with(vec![hole(9.0)]), Err(ShapeFault::HoleOutside(1)));
    assert_eq!(with(vec![hole(1.0), hole(2.0)]), Err(ShapeFault::HolesMeet(1, 2)));
    assert_eq!(with(vec![hole(20.0)]), Err(ShapeFault::HoleOutside(1)));
    let many = Shape::plain(Outline(
        (0..3000)
            .map(|i| Vertex { at: Point::default().toward(f64::from(i) * 0.12, 100.0), bulge: 0.0 })
            .collect(),
    ));
    assert_eq!(many.check(), Err(ShapeFault::TooMany(3000)));
}

#[test]
fn heights_between_spots_are_weighed_by_distance_and_stay_in_range() {
    let spots = [(Point::new(0.0, 0.0), m(0.0)), (Point::new(10.0, 0.0), m(3.0))];
    assert_eq!(height_at(&spots, Point::new(10.0, 0.0)), Some(m(3.0)));
    assert_eq!(height_at(&spots, Point::new(5.0, 7.0)), Some(m(1.5)));
    // A third of the way: weights 1/2^2... 4 to 1, so a fifth of the height.
    assert!(near(height_at(&spots, Point::new(10.0 / 3.0, 0.0)).unwrap().m(), 0.6));
    assert_eq!(height_at(&[], Point::default()), None);
}

#[test]
fn a_mirrored_area_keeps_its_size_and_its_slope_turns_with_it() {
    let mut thing = lawn("a1", rect(0.0, 0.0, 4.0, 2.0));
    if let ObjectKind::Area(a) = &mut thing.what {
        a.slope_toward = Some(90.0);
        a.shape.outline.0[1].bulge = 0.4;
    }
    let mirror = Motion::Mirror { from: Point::new(0.0, 0.0), to: Point::new(0.0, 1.0) };
    let turned = Motion::Turn { about: Point::default(), degrees: 90.0 };
    let area = |t: &SiteObject| t.shape().unwrap().area_m2();
    let toward = |t: &SiteObject| match &t.what {
        ObjectKind::Area(a) => a.slope_toward.unwrap(),
        _ => f64::NAN,
    };
    let flipped = thing.moved(mirror);
    assert!(near(area(&flipped), area(&thing)) && flipped.shape().unwrap().check().is_ok());
    assert!(near(toward(&flipped), 270.0), "fell to the right, falls to the left");
    assert!(near(toward(&thing.moved(turned)), 0.0), "a quarter turn to the left: falls up the sheet");
    assert_eq!(thing.moved(mirror).moved(mirror).shape().unwrap().check(), Ok(()));
}

#[test]
fn a_picture_is_scaled_by_two_points_and_levelled() {
    let scan = Underlay {
        picture: "a".into(),
        width: 1000,
        height: 500,
        at: Point::new(2.0, 1.0),
        pixel: m(0.01),
        degrees: 0.0,
        strength: 0.5,
    };
    let (a, b) = (Point::new(2.0, 1.0), Point::new(7.0, 1.0));
    let scaled = scan.scaled(a, b, m(20.0)).unwrap();
    assert!(near(scaled.pixel.m(), 0.04) && close(scaled.at, 2.0, 1.0));
    assert!(scan.scaled(a, a, m(1.0)).is_err() && scan.scaled(a, b, m(0.0)).is_err());
    let level = scan.levelled(Point::new(2.0, 1.0), Point::new(2.0, 5.0)).unwrap();
    assert!(near(level.degrees, 270.0) && close(level.at, 2.0, 1.0));
}

/// Star-shaped rings: always simple. Radii in decimetres, some edges bent a little.
fn star() -> impl Strategy<Value = Shape> {
    prop::collection::vec((20u16..200, -10i8..=10), 3..14).prop_map(|spokes| {
        let n = spokes.len() as f64;
        let at = |i: usize, r: u16| Point::default().toward(360.0 * i as f64 / n, f64::from(r) / 10.0);
        Shape::plain(Outline(
            spokes
                .iter()
                .enumerate()
                .map(|(i, (r, b))| Vertex { at: at(i, *r), bulge: f64::from(*b) / 100.0 })
                .collect(),
        ))
    })
}

proptest! {
    #![proptest_config(ProptestConfig {
        cases: 200,
        rng_seed: proptest::test_runner::RngSeed::Fixed(20_261_124),
        ..ProptestConfig::default()
    })]

    #[test]
    fn area_survives_every_motion_and_every_cut(
        shape in star(),
        degrees in 0.0..360.0f64,
        cut_at in 0.0..180.0f64,
    ) {
        prop_assume!(shape.check().is_ok());
        let area = shape.area_m2();
        for motion in [
            Motion::Turn { about: Point::new(3.0, -7.0), degrees },
            Motion::Shift { by: Point::new(-40.0, 12.5) },
            Motion::Mirror { from: Point::new(1.0, 0.0), to: Point::default().toward(degrees, 5.0) },
        ] {
            prop_assert!((shape.moved(motion).area_m2() - area).abs() < 1e-6 * area);
        }
        // Flattened finely, the area is the same within a thousandth.
        let flat = Outline::straight(&shape.outline.flat(0.001)).signed_area().abs();
        prop_assert!((flat - area).abs() < 2e-3 * area, "{flat} {area}");
        // A line through the middle cuts it; nothing is lost.
        let (a, b) = (Point::default().toward(cut_at, 100.0), Point::default().toward(cut_at + 180.0, 100.0));
        if let Ok(pieces) = split(&shape, a, b) {
            let sum: f64 = pieces.iter().map(Shape::area_m2).sum();
            prop_assert!((sum - area).abs() < 0.02 * area, "{sum} of {area}");
            for piece in &pieces { prop_assert_eq!(piece.check(), Ok(())); }
        }
    }

    #[test]
    fn what_is_cut_out_and_what_stays_make_the_whole(a in star(), b in star(), dx in -15.0..15.0f64) {
        prop_assume!(a.check().is_ok() && b.check().is_ok());
        let b = b.moved(Motion::Shift { by: Point::new(dx, 1.0) });
        let whole = a.area_m2() + b.area_m2();
        let rest: f64 = match cut(&a, &[&b]) {
            Ok(p) => p.iter().map(Shape::area_m2).sum(),
            Err(CombineError::NothingLeft) => 0.0,
            Err(_) => a.area_m2(),
        };
        if let Ok(joined) = join(&a, &b) {
            let all = joined.area_m2();
            prop_assert!((all - (rest + b.area_m2())).abs() < 0.02 * whole, "joined {all} rest {rest} of \
                {whole}");
        }
    }

    #[test]
    fn corners_are_written_and_read_to_the_same_bits(
        x in -1e4..1e4f64,
        y in -1e4..1e4f64,
        bulge in -10.0..10.0f64,
    ) {
        let path = Path(vec![Vertex { at: Point::new(x, y), bulge }, Vertex { at: Point::new(y, x), bulge: 0.0 }]);
        let text = serde_json::to_string(&path).unwrap();
        prop_assert_eq!(serde_json::from_str::<Path>(&text).unwrap(), path);
    }

    #[test]
    fn tapes_meet_at_their_lengths(
        x in -50.0..50.0f64,
        y in -50.0..50.0f64,
        px in -50.0..50.0f64,
        py in -50.0..50.0f64,
    ) {
        let (a, b, p) = (Point::new(0.0, 0.0), Point::new(x, y), Point::new(px, py));
        prop_assume!(b.norm() > 0.5 && p.norm() > 0.1 && p.distance(b) > 0.1);
        let found = triangulate(a, m(p.norm()), b, m(p.distance(b))).unwrap();
        prop_assert!(found.iter().any(|f| f.distance(p) < 1e-4 + 1e-2 * f64::EPSILON.sqrt() * p.norm()), "{found:?} {p:?}");
    }
}

#[test]
fn ground_is_as_wide_as_it_was_drawn() {
    const FT: f64 = 0.3048;
    let wide = |shape: &Shape| super::widest(std::slice::from_ref(shape)).m();
    let rect = |a: f64, b: f64, turn: f64| {
        let (a, b) = (Length::from_m(a), Length::from_m(b));
        Shape::plain(super::rectangle(Point::new(3.0, -7.0), turn, a, b).unwrap())
    };
    // A lawn of 40 by 24 ft, a strip of 12 by 3 m, a kerb of 0.6 by 90 m; level and turned.
    for turn in [0.0, 17.0, 45.0, 133.3] {
        for (a, b) in [(40.0 * FT, 24.0 * FT), (12.0, 3.0), (0.6, 90.0), (5.0, 5.0)] {
            let got = wide(&rect(a, b, turn));
            assert!((got - a.min(b)).abs() < 0.0006, "{a} x {b} at {turn}: {got}");
        }
    }
    // A right triangle of 3, 4, 5: its inner circle has r = (3 + 4 - 5) / 2.
    let corner = |x: f64, y: f64| Point::new(x, y);
    let triangle = Shape::plain(Outline::straight(&[corner(0.0, 0.0), corner(4.0, 0.0), corner(0.0, 3.0)]));
    assert!((wide(&triangle) - 2.0).abs() < 0.001, "{}", wide(&triangle));
    // An L of two legs 2 wide: the circle in its elbow touches both outer walls and the inner corner,
    // r = 2 sqrt 2 / (1 + sqrt 2) = 1.1716.
    let l = [(0.0, 0.0), (10.0, 0.0), (10.0, 2.0), (2.0, 2.0), (2.0, 10.0), (0.0, 10.0)];
    let l = Shape::plain(Outline::straight(&l.map(|(x, y)| corner(x, y))));
    assert!((wide(&l) - 2.0 * 1.171_573).abs() < 0.001, "{}", wide(&l));
    // A lawn of 10 by 10 with an island of 2 by 2 in its middle: the best circle lies in a corner,
    // r + r sqrt 2 = 4 sqrt 2.
    let mut ring = rect(10.0, 10.0, 0.0);
    let island = super::rectangle(Point::new(7.0, -3.0), 0.0, Length::from_m(2.0), Length::from_m(2.0));
    ring.holes.push(island.unwrap());
    assert!((wide(&ring) - 2.0 * 2.343_146).abs() < 0.001, "{}", wide(&ring));
    // To a centimetre: never too wide, and at most a centimetre too narrow.
    for shape in [&triangle, &rect(12.0, 7.3, 20.0)] {
        let (fine, rough) = (wide(shape), super::widest_to(std::slice::from_ref(shape), 0.01).m());
        assert!(rough <= fine + 0.0005 && rough >= fine - 0.01, "{fine} {rough}");
    }
    // Of several pieces the widest counts; of none there is no width.
    assert!((super::widest(&[triangle, rect(3.0, 9.0, 0.0)]).m() - 3.0).abs() < 0.001);
    assert_eq!(super::widest(&[]).m(), 0.0);
}
