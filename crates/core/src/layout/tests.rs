use super::*;
use crate::catalogue::{Catalogue, Kind};
use crate::job::Job;
use crate::job::tests::apply;
use crate::plan::{DrawnHead, HeadGroup, Plan};
use crate::site::tests::{lawn, rect};
use crate::site::{DryKind, Form, KeepDry, Motion, ObjectKind, Outline, Point, Shape, SiteObject, Vertex};
use crate::units::{Length, UnitSystem};
use proptest::prelude::*;

const FT: f64 = 0.3048;

fn ring(points: &[(f64, f64, f64)]) -> Shape {
    Shape::plain(Outline(
        points
            .iter()
            .map(|&(x, y, bulge)| Vertex {
                at: Point::new(x * FT, y * FT),
                bulge,
            })
            .collect(),
    ))
}

fn plan_of(shape: Shape) -> Plan {
    let mut plan = Plan::new("t", UnitSystem::Us);
    plan.site.objects.push(lawn("a1", shape));
    plan
}

/// A head by hand: feet, degrees, nozzle.
/// Heads stand as far off the edge as ours, as on the ground: those given on it are moved in.
fn by_hand(nozzle: &str, heads: &[(f64, f64, f64, u16)]) -> Vec<Proposed> {
    heads
        .iter()
        .map(|&(x, y, facing, arc)| Proposed {
            nozzle: nozzle.into(),
            at: Point::new(x * FT, y * FT).toward(
                facing,
                if arc < 360 {
                    0.055 / (f64::from(arc.min(180)) / 2.0).to_radians().sin()
                } else {
                    0.0
                },
            ),
            facing,
            arc,
            radius: None,
        })
        .collect()
}

/// The six shapes, each with the head-to-head layout that an installer draws on it by hand.
fn shapes() -> Vec<(&'static str, Plan, Vec<Proposed>)> {
    // 40 x 60 ft: rows of four, 13 ft 4 in apart, five rows 15 ft apart.
    let mut grid = Vec::new();
    for i in 0..4 {
        for j in 0..5 {
            let (left, right, low, high) = (i == 0, i == 3, j == 0, j == 4);
            let (facing, arc) = match (left, right, low, high) {
                (true, _, true, _) => (45.0, 90),
                (_, true, true, _) => (135.0, 90),
                (_, true, _, true) => (225.0, 90),
                (true, _, _, true) => (315.0, 90),
                (true, ..) => (0.0, 180),
                (_, true, ..) => (180.0, 180),
                (_, _, true, _) => (90.0, 180),
                (_, _, _, true) => (270.0, 180),
                _ => (0.0, 360),
            };
            grid.push((f64::from(i) * 40.0 / 3.0, f64::from(j) * 15.0, facing, arc));
        }
    }
    // An L of 60 x 60 with 30 x 30 out of it: a head on every 15 ft of the grid.
    let l = vec![
        (0.0, 0.0, 45.0, 90),
        (15.0, 0.0, 90.0, 180),
        (30.0, 0.0, 90.0, 180),
        (45.0, 0.0, 90.0, 180),
        (60.0, 0.0, 135.0, 90),
        (0.0, 15.0, 0.0, 180),
        (15.0, 15.0, 0.0, 360),
        (30.0, 15.0, 0.0, 360),
        (45.0, 15.0, 0.0, 360),
        (60.0, 15.0, 180.0, 180),
        (0.0, 30.0, 0.0, 180),
        (15.0, 30.0, 0.0, 360),
        (30.0, 30.0, 225.0, 270),
        (45.0, 30.0, 270.0, 180),
        (60.0, 30.0, 225.0, 90),
        (0.0, 45.0, 0.0, 180),
        (15.0, 45.0, 0.0, 360),
        (30.0, 45.0, 180.0, 180),
        (0.0, 60.0, 315.0, 90),
        (15.0, 60.0, 270.0, 180),
        (30.0, 60.0, 225.0, 90),
    ];
    // A circle of 25 ft: eleven round the edge looking in, five on a ring of 11 ft.
    let round: Vec<(f64, f64, f64, u16)> = (0..11)
        .map(|i| (f64::from(i) * 360.0 / 11.0, 25.0, 180))
        .chain((0..5).map(|i| (f64::from(i) * 72.0, 11.0, 360)))
        .map(|(a, r, arc)| {
            (
                25.0 + r * a.to_radians().cos(),
                25.0 + r * a.to_radians().sin(),
                (a + 180.0) % 360.0,
                arc,
            )
        })
        .collect();
    // A parking island, 8 x 60 ft: eight along each side, 7 ft 5 in apart, and one at each tip.
    let mut island: Vec<(f64, f64, f64, u16)> = (0..8)
        .flat_map(|i| {
            [
                (4.0 + f64::from(i) * 52.0 / 7.0, 0.0, 90.0, 180),
                (4.0 + f64::from(i) * 52.0 / 7.0, 8.0, 270.0, 180),
            ]
        })
        .collect();
    island.extend([(0.0, 4.0, 0.0, 180), (60.0, 4.0, 180.0, 180)]);
    // A right triangle of 40 x 30: its corners, its edges divided, two inside.
    let down = 323.13 - 90.0;
    let triangle = vec![
        (0.0, 0.0, 45.0, 90),
        (13.33, 0.0, 90.0, 180),
        (26.67, 0.0, 90.0, 180),
        (40.0, 0.0, 161.6, 45),
        (0.0, 15.0, 0.0, 180),
        (0.0, 30.0, 296.6, 55),
        (10.0, 22.5, down, 180),
        (20.0, 15.0, down, 180),
        (30.0, 7.5, down, 180),
        (12.0, 9.0, 0.0, 360),
    ];
    // A curved lawn with the corner of a house in it: round the edge every 14 ft or so, along the
    // house, and inside.
    let free = vec![
        (0.0, 0.0, 45.0, 90),
        (14.0, 0.0, 90.0, 180),
        (28.0, 0.0, 90.0, 180),
        (42.0, 0.0, 90.0, 180),
        (56.0, 0.0, 120.0, 120),
        (63.5, 14.0, 175.0, 180),
        (63.0, 28.0, 190.0, 180),
        (56.0, 40.0, 225.0, 130),
        (43.0, 40.0, 270.0, 180),
        (30.0, 40.0, 315.0, 90),
        (30.0, 28.0, 0.0, 180),
        (30.0, 20.0, 315.0, 270),
        (15.0, 20.0, 270.0, 180),
        (0.0, 20.0, 315.0, 90),
        (0.0, 10.0, 0.0, 180),
        (14.0, 10.0, 0.0, 360),
        (28.0, 10.0, 0.0, 360),
        (42.0, 12.0, 0.0, 360),
        (46.0, 26.0, 0.0, 360),
    ];
    let mut house = plan_of(ring(&[
        (0.0, 0.0, 0.0),
        (50.0, 0.0, 0.35),
        (50.0 + 6.0, 40.0, 0.0),
        (0.0, 40.0, 0.0),
    ]));
    house.site.objects.push(SiteObject {
        id: "d1".into(),
        name: "House".into(),
        what: ObjectKind::Dry(KeepDry {
            kind: DryKind::Building,
            height: None,
            form: Form::Region(rect(-10.0 * FT, 20.0 * FT, 40.0 * FT, 30.0 * FT)),
        }),
    });
    vec![
        (
            "rectangle 40 x 60 ft",
            plan_of(rect(0.0, 0.0, 40.0 * FT, 60.0 * FT)),
            by_hand("spray-15", &grid),
        ),
        (
            "L of 60 x 60 ft",
            plan_of(ring(&[
                (0.0, 0.0, 0.0),
                (60.0, 0.0, 0.0),
                (60.0, 30.0, 0.0),
                (30.0, 30.0, 0.0),
                (30.0, 60.0, 0.0),
                (0.0, 60.0, 0.0),
            ])),
            by_hand("spray-15", &l),
        ),
        (
            "circle of 25 ft",
            plan_of(ring(&[(50.0, 25.0, 1.0), (0.0, 25.0, 1.0)])),
            by_hand("spray-15", &round),
        ),
        (
            "island 8 x 60 ft",
            plan_of(ring(&[
                (4.0, 0.0, 0.0),
                (56.0, 0.0, 1.0),
                (56.0, 8.0, 0.0),
                (4.0, 8.0, 1.0),
            ])),
            by_hand("spray-8", &island),
        ),
        (
            "triangle 40 x 30 ft",
            plan_of(ring(&[(0.0, 0.0, 0.0), (40.0, 0.0, 0.0), (0.0, 30.0, 0.0)])),
            by_hand("spray-15", &triangle),
        ),
        (
            "curved lawn with a house corner",
            house,
            by_hand("spray-15", &free),
        ),
    ]
}

fn told(s: &Score) -> String {
    format!(
        "{:2} heads, {:4.1} gpm, DU {:.2}, CU {:.2}, SC {:.2}, on dry {:.1} %, off the area {:.0} %, \
            unreached {:.1} %",
        s.heads,
        s.flow.gpm(),
        s.du,
        s.cu,
        s.sc,
        s.on_dry * 100.0,
        s.overspray * 100.0,
        s.unreached * 100.0
    )
}

fn laid(plan: &Plan, kind: Kind) -> Result<Proposal, LayoutFault> {
    propose(&Job::of(plan), "a1", kind, &Progress::default())
}

#[test]
fn proposals_are_about_as_even_as_head_to_head_by_hand_and_take_no_more_water() {
    let mut table = String::new();
    for (name, plan, hand) in shapes() {
        let (by_hand, _) = measure(&Job::of(&plan), "a1", &hand).unwrap();
        let proposal = laid(&plan, Kind::Spray).unwrap();
        let ours = proposal.score;
        table += &format!(
            "{name}\n  by hand  {}\n  proposed {}\n",
            told(&by_hand),
            told(&ours)
        );
        for h in &proposal.heads {
            table += &format!(
                "    {:9} at {:6.2}, {:6.2} ft, {:3}° to {:5.1}°{}\n",
                h.nozzle,
                h.at.x / FT,
                h.at.y / FT,
                h.arc,
                h.facing,
                h.radius
                    .map_or(String::new(), |r| format!(", turned to {:.1} ft", r.ft()))
            );
        }
        assert!(
            ours.du >= by_hand.du - 0.02 && ours.sc <= by_hand.sc + 0.12,
            "{name}: by hand {} and ours {}",
            told(&by_hand),
            told(&ours)
        );
        let off_rate = ours.rate.mmph() / ours.own_rate.mmph() - 1.0;
        assert!(
            off_rate.abs() <= 0.15 && ours.overspray < 0.05,
            "{name}: {:.2} of its own rate, {}",
            1.0 + off_rate,
            told(&ours)
        );
        assert!(
            ours.on_dry < 0.03 && ours.unreached == 0.0 && proposal.unreached.is_empty(),
            "{name}: {}",
            told(&ours)
        );
    }
    insta::assert_snapshot!(table);
}

/// Rectangles and Ls of everyday lawns, feet: (width, height) and (width, height, the leg's two widths).
const RECTANGLES: [(f64, f64); 12] = [
    (36.0, 48.0),
    (46.0, 28.0),
    (24.0, 24.0),
    (30.0, 50.0),
    (60.0, 40.0),
    (18.0, 60.0),
    (15.0, 40.0),
    (80.0, 60.0),
    (20.0, 33.0),
    (26.0, 26.0),
    (44.0, 31.0),
    (55.0, 35.0),
];
const ELLS: [(f64, f64, f64, f64); 8] = [
    (60.0, 45.0, 25.0, 20.0),
    (48.0, 36.0, 24.0, 12.0),
    (70.0, 50.0, 30.0, 20.0),
    (40.0, 40.0, 18.0, 18.0),
    (52.0, 30.0, 20.0, 14.0),
    (64.0, 48.0, 32.0, 24.0),
    (36.0, 54.0, 18.0, 18.0),
    (45.0, 45.0, 15.0, 15.0),
];

/// Everyday lawns, each a plan of its own.
fn lawns() -> impl Iterator<Item = (String, Plan)> {
    let rectangles = RECTANGLES
        .into_iter()
        .map(|(w, h)| (format!("{w} x {h} ft"), plan_of(rect(0.0, 0.0, w * FT, h * FT))));
    let ells = ELLS.into_iter().map(|(w, h, leg, foot)| {
        let corners = [(0.0, 0.0), (w, 0.0), (w, foot), (leg, foot), (leg, h), (0.0, h)];
        let shape = ring(&corners.map(|(x, y)| (x, y, 0.0)));
        (format!("L {w} x {h} ft"), plan_of(shape))
    });
    rectangles.chain(ells)
}

#[test]
fn twenty_lawns_get_the_rate_of_their_kind_and_keep_their_water() {
    let (mut off_rate, mut off_area) = (Vec::new(), Vec::new());
    for (name, plan) in lawns() {
        for kind in [Kind::Spray, Kind::Rotator] {
            let p = laid(&plan, kind).unwrap_or_else(|e| panic!("{name} {kind:?}: {e}"));
            let s = p.score;
            let even = p.expected.expect("it is watered");
            assert!(s.du > 0.85 && s.unreached == 0.0, "{name} {kind:?}: {}", told(&s));
            assert!(even.du < s.du && even.du > 0.5, "{name} {kind:?}: {even:?}");
            let rate = s.rate.mmph() / s.own_rate.mmph();
            if (rate - 1.0).abs() > 0.15 {
                off_rate.push(format!("{name} {kind:?} {rate:.2}"));
            }
            if s.overspray > 0.03 {
                off_area.push(format!("{name} {kind:?} {:.3}", s.overspray));
            }
            assert!(s.overspray < 0.06, "{name} {kind:?}: {}", told(&s));
            // It can be laid out, and its own checks find nothing to say of how its heads stand.
            let job = Job::of(&plan);
            let (next, _) = job.apply(&lay_out(&job, &p)).expect("heads that can be set so");
            let sources = crate::coverage::sources(&next, &Default::default(), "a1");
            let throws: Vec<_> = sources.iter().map(crate::coverage::Source::throw).collect();
            let cover = crate::coverage::coverage(&next, "a1", &throws, None).unwrap();
            let found = crate::findings::area_findings(&next, "a1", &sources, &cover);
            let grave = found
                .iter()
                .filter(|f| f.finding.severity < crate::findings::Severity::Watch);
            let codes: Vec<&str> = grave.map(|f| f.finding.code()).collect();
            assert!(
                !codes.contains(&"not-head-to-head") && !codes.contains(&"arc-not-made"),
                "{name} {kind:?}: {found:?}"
            );
        }
    }
    // Where no throw of the four rotators divides the ground, reaching the neighbours comes before the rate.
    assert!(off_rate.iter().all(|o| o.contains("Rotator")), "{off_rate:?}");
    assert!(off_rate.len() <= 7, "{off_rate:?}");
    assert!(off_area.len() <= 4, "{off_area:?}");
}

#[test]
fn thirty_six_by_forty_eight_takes_a_third_less_water_than_wide_throws_set_close() {
    // 20 sprays of 15 ft at 12 ft give 45.6 gpm and 2.46 in/h; the throw that equals the spacing 28.7 gpm and
    // 1.60 in/h: 96.25 x 28.7 / 1728.
    let p = laid(&plan_of(rect(0.0, 0.0, 36.0 * FT, 48.0 * FT)), Kind::Spray).unwrap();
    let inches = p.score.rate.mmph() / 25.4;
    assert!(
        p.score.flow.gpm() < 32.0 && (1.4..1.8).contains(&inches),
        "{}",
        told(&p.score)
    );
    assert!(p.score.du > 0.91);
}

#[test]
fn a_neck_of_two_feet_is_told_and_left_to_drip() {
    // Two lawns of 20 x 20 ft, joined by a neck 18 in wide and 16 ft long.
    let neck = ring(&[
        (0.0, 0.0, 0.0),
        (20.0, 0.0, 0.0),
        (20.0, 9.25, 0.0),
        (36.0, 9.25, 0.0),
        (36.0, 0.0, 0.0),
        (56.0, 0.0, 0.0),
        (56.0, 20.0, 0.0),
        (36.0, 20.0, 0.0),
        (36.0, 10.75, 0.0),
        (20.0, 10.75, 0.0),
        (20.0, 20.0, 0.0),
        (0.0, 20.0, 0.0),
    ]);
    let p = laid(&plan_of(neck), Kind::RotatorShort).unwrap();
    let told: Vec<ReachAdvice> = p.unreached.iter().map(Unreached::advice).collect();
    assert!(
        p.heads.iter().all(|h| !(20.2..35.8).contains(&(h.at.x / FT))),
        "no head stands in the neck: {:?}",
        p.heads
    );
    assert!(
        told.is_empty() || told.contains(&ReachAdvice::DripOnly),
        "{told:?}"
    );
    // Ground that is nowhere wider than 18 in has no proposal, and says why.
    let strip = laid(&plan_of(rect(0.0, 0.0, 30.0 * FT, 1.5 * FT)), Kind::Spray);
    assert!(
        matches!(&strip, Err(LayoutFault::TooNarrow(w)) if w.ft() < 2.0),
        "{strip:?}"
    );
    assert!(matches!(
        laid(&plan_of(rect(0.0, 0.0, 15.0 * FT, 15.0 * FT)), Kind::RotorLarge),
        Err(LayoutFault::TooSmall { .. })
    ));
    assert_eq!(
        propose(
            &Job::of(&plan_of(rect(0.0, 0.0, 5.0, 5.0))),
            "a2",
            Kind::Spray,
            &Progress::default()
        ),
        Err(LayoutFault::NoArea)
    );
    let stopped = Progress::default();
    stopped.stop();
    assert_eq!(
        propose(
            &Job::of(&plan_of(rect(0.0, 0.0, 15.0, 15.0))),
            "a1",
            Kind::Spray,
            &stopped
        ),
        Err(LayoutFault::Stopped)
    );
}

#[test]
fn narrow_and_square_ground_gets_strips_and_squares_where_they_serve() {
    // 4 x 45 ft: two end strips and two side strips between them, 15 ft apart less the edges.
    let strip = laid(&plan_of(rect(0.0, 0.0, 45.0 * FT, 4.0 * FT)), Kind::Spray).unwrap();
    let count = |id: &str| strip.heads.iter().filter(|h| h.nozzle == id).count();
    assert_eq!(
        (count("strip-end"), count("strip-side"), strip.heads.len()),
        (2, 2, 4),
        "{:?}",
        strip.heads
    );
    assert!(
        strip.score.du > 0.8 && strip.score.overspray < 0.1,
        "{}",
        told(&strip.score)
    );
    // 12 x 24 ft: two squares tried; whichever is laid reaches everything.
    let square = laid(&plan_of(rect(0.0, 0.0, 24.0 * FT, 12.0 * FT)), Kind::Spray).unwrap();
    assert!(
        square.score.unreached == 0.0 && square.score.du > 0.7,
        "{}",
        told(&square.score)
    );
}

#[test]
fn mirrored_and_turned_ground_is_laid_out_alike() {
    for (name, plan, _) in shapes().into_iter().skip(3) {
        let straight = laid(&plan, Kind::Spray).unwrap();
        assert_eq!(
            straight,
            laid(&plan, Kind::Spray).unwrap(),
            "{name}: the same ground gives the same heads"
        );
        for motion in [
            Motion::Mirror {
                from: Point::new(3.0, 0.0),
                to: Point::new(3.0, 1.0),
            },
            Motion::Turn {
                about: Point::new(1.0, 2.0),
                degrees: 90.0,
            },
        ] {
            let mut other = plan.clone();
            other.site.objects = plan.site.objects.iter().map(|t| t.moved(motion)).collect();
            let moved = laid(&other, Kind::Spray).unwrap();
            let (a, b) = (moved.score, straight.score);
            assert!(
                (a.worth - b.worth).abs() < 0.12 && (a.du - b.du).abs() < 0.04,
                "{name}: {} and {}",
                told(&straight.score),
                told(&moved.score)
            );
        }
    }
}

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
        proposal
            .heads
            .iter()
            .all(|h| h.at.distance(Point::new(0.06, 0.06)) > 1.0),
        "none stands on the locked one"
    );
    assert_eq!(
        proposal.score.heads,
        proposal.heads.len() + 1,
        "the locked one counts"
    );
    let edit = lay_out(&Job::of(&plan), &proposal);
    let (laid, inverse) = apply(&plan, &edit).unwrap();
    let ids: Vec<&str> = laid
        .groups
        .iter()
        .flat_map(|g| &g.drawn)
        .map(|h| h.id.as_str())
        .collect();
    assert!(
        ids.contains(&"h1") && !ids.contains(&"h2") && ids.len() == proposal.heads.len() + 1,
        "{ids:?}"
    );
    assert!(
        laid.groups
            .iter()
            .all(|g| g.area.as_deref() == Some("a1") && g.is_drawn())
    );
    let (back, _) = apply(&laid, &inverse).unwrap();
    assert_eq!(back, plan);
    // Laid out again over itself: still one head for each place, the locked one too.
    let (again, _) = apply(&laid, &lay_out(&Job::of(&laid), &proposal)).unwrap();
    assert_eq!(
        again.groups.iter().map(|g| g.drawn.len()).sum::<usize>(),
        ids.len()
    );
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
    for (id, x, y) in [
        ("h2", 1.0, 0.05),
        ("h4", 4.0, 0.05),
        ("h1", 7.0, 0.1),
        ("h3", 10.0, 0.05),
    ] {
        assert!(
            at(id).distance(Point::new(x, y)) < 1e-6,
            "{id} stands at {:?}",
            at(id)
        );
    }
    assert!(
        even_out(&plan, &ids[..2]).is_empty(),
        "two heads have nothing between them"
    );
}

#[test]
fn the_kind_of_head_follows_the_ground_and_the_house() {
    let kind = |w: f64, l: f64, change: fn(&mut Plan)| {
        let mut plan = plan_of(rect(0.0, 0.0, l * FT, w * FT));
        change(&mut plan);
        advise(&plan, "a1").unwrap().kind
    };
    fn area(p: &mut Plan) -> &mut crate::site::Area {
        let ObjectKind::Area(a) = &mut p.site.objects[0].what else {
            panic!("an area")
        };
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
        [
            Kind::Dripline,
            Kind::Spray,
            Kind::Spray,
            Kind::Rotator,
            Kind::RotorMid,
            Kind::RotorLarge
        ]
    );
    assert_eq!(kind(16.0, 30.0, |p| area(p).slope_percent = 12.0), Kind::Rotator);
    assert_eq!(
        kind(10.0, 30.0, |p| area(p).soil = crate::plan::Soil::Clay),
        Kind::RotatorShort
    );
    assert_eq!(
        kind(16.0, 30.0, |p| p.rules.heads = crate::plan::HeadSchool::Rotator),
        Kind::Rotator
    );
    assert_eq!(
        kind(16.0, 30.0, |p| area(p).kind = crate::site::AreaKind::Vegetables),
        Kind::Dripline
    );
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
    // Lawn of medium thirst in full sun: 1.6 in x 0.7 = 1.12 in a week; by rate and evenness.
    let s = score(spray);
    let even = spray.heads.as_ref().unwrap().expected.unwrap().du;
    assert!(even < s.du, "an audit finds less than perfect heads would give");
    let landing = s.rate.mmph() * (1.0 - s.overspray);
    let by_hand = 60.0 * 1.12 * 25.4 / landing / (0.4 + 0.6 * even);
    assert!(
        (minutes(spray) - by_hand).abs() < 0.5,
        "{} {by_hand}",
        minutes(spray)
    );
    assert!((spray.year.unwrap().litres() - s.flow.lpm() * by_hand * 18.0).abs() < 60.0);
    assert_eq!(
        (spray.valves, spray.pressure.1),
        (None, None),
        "no reading of the water, no valves"
    );
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
        crate::plan::Edit::SetFavourites(crate::plan::SetFavourites {
            ids: vec!["own-15".into()],
        }),
    ] {
        priced = apply(&priced, &edit).unwrap().0;
    }
    let of_ours = &alternatives(&Job::of(&priced), assessment.available(), "a1", &progress)[0];
    let heads = of_ours.heads.as_ref().unwrap().heads.len() as i64;
    assert_eq!(of_ours.cost, Some(rust_decimal::Decimal::new(185 * heads, 2)));
    // Dripline as it is laid, beside what a hand reckons by area: 1350 ft2 in rows 16 in apart is 1012 ft; every
    // 12 in an emitter of 0.6 gph, as for turf: 10.1 gpm. Rows stand on both edges: at most a tenth more.
    let drip = of(Kind::Dripline).drip.clone().unwrap().unwrap();
    let flow = of(Kind::Dripline).flow.unwrap().gpm();
    assert!(
        (1012.5..1012.5 * 1.1).contains(&drip.tubing.ft()),
        "{}",
        drip.tubing.ft()
    );
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
                prop_assert!(h.radius.is_none_or(|r| r.m() <= full.m() + 1e-9 && r.m() >= full.m() * 0.745));
            }
            prop_assert!(p.score.du.is_finite() && (0.0..=1.0).contains(&p.score.on_dry));
        }
    }
}

#[test]
fn what_is_wrong_on_an_area_is_found_with_what_would_mend_it() {
    use crate::coverage::{Source, coverage, sources};
    use crate::findings::{Check, Severity, area_findings};
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
    let drawn = vec![
        head("h1", 8.0, 0.0, 360, 0.0, None),
        head("h2", 33.0, 0.05, 360, 0.0, None),
    ];
    plan.groups.push(HeadGroup {
        area: Some("a1".into()),
        drawn,
        ..HeadGroup::new("g1", "Lawn", "spray-12")
    });
    let found = |plan: &Plan| {
        let assessment = crate::assess::assess(&Job::of(plan));
        let job = Job::of(plan);
        let sources = sources(&job, &assessment.solved_heads(), "a1");
        let throws: Vec<_> = sources.iter().map(Source::throw).collect();
        area_findings(
            &Job::of(plan),
            "a1",
            &sources,
            &coverage(plan, "a1", &throws, None).unwrap(),
        )
    };
    let all = found(&plan);
    let of = |code: &str| {
        all.iter().find(|f| f.finding.code() == code).unwrap_or_else(|| {
            panic!(
                "{code} not found in {:?}",
                all.iter().map(|f| f.finding.code()).collect::<Vec<_>>()
            )
        })
    };
    let Check::NotHeadToHead {
        heads: 2, of: 2, gap, ..
    } = of("not-head-to-head").finding.check
    else {
        panic!("{:?}", of("not-head-to-head"));
    };
    assert!((gap.ft() - 25.0).abs() < 0.05, "{}", gap.ft());
    let dry = &of("throw-over-dry").finding;
    assert!(dry.severity == Severity::Stop);
    assert!(matches!(&dry.check, Check::ThrowOverDry { worst, .. } if worst == "Walk"));
    // The screw of a 12 ft nozzle goes down to 9 ft: 5 ft, from a log of before that was refused.
    let mut turned = plan.clone();
    turned.groups[0].drawn[1].radius = Some(Length::from_ft(5.0));
    let beyond = found(&turned)
        .into_iter()
        .find(|f| f.finding.code() == "beyond-adjustment")
        .unwrap();
    let Check::BeyondAdjustment {
        heads: 1, set, least, ..
    } = beyond.finding.check
    else {
        panic!("{beyond:?}");
    };
    assert!((set.ft() - 5.0).abs() < 1e-6 && (least.ft() - 9.0).abs() < 1e-6);
    let (set, _) = apply(&turned, &beyond.remedies[0].edit).unwrap();
    assert!((set.drawn_head("h2").unwrap().1.radius.unwrap().ft() - 9.0).abs() < 1e-6);
    assert!(matches!(
        of("at-the-edge").finding.check,
        Check::AtTheEdge { heads: 2, .. }
    ));
    assert_eq!(
        (
            of("unwatered-part").finding.severity,
            of("uneven").finding.severity
        ),
        (Severity::Stop, Severity::Fix)
    );
    assert!(
        all.windows(2)
            .all(|w| w[0].finding.severity <= w[1].finding.severity),
        "the worst first"
    );
    // Each remedy does what it says: one layout mends all that placing mends.
    for (code, gone) in [
        ("at-the-edge", vec!["at-the-edge"]),
        (
            "throw-over-dry",
            vec!["throw-over-dry", "not-head-to-head", "unwatered-part", "uneven"],
        ),
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
    assert!(
        found(&good).is_empty(),
        "{:?}",
        found(&good).iter().map(|f| &f.finding).collect::<Vec<_>>()
    );
}

#[test]
fn what_is_on_the_truck_comes_first_and_the_rest_where_it_does_not_suit() {
    let with_truck = |shape: Shape| {
        apply(
            &plan_of(shape),
            &crate::plan::Edit::SetFavourites(crate::plan::SetFavourites {
                ids: vec!["spray-17".into()],
            }),
        )
        .unwrap()
        .0
    };
    let wide = laid(&with_truck(rect(0.0, 0.0, 34.0 * FT, 34.0 * FT)), Kind::Spray).unwrap();
    assert!(
        wide.heads.iter().all(|h| h.nozzle == "spray-17"),
        "{:?}",
        wide.heads
    );
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
    alternatives(
        &Job::of(&plan),
        crate::assess::assess(&Job::of(&plan)).available(),
        "a1",
        &progress,
    );
    assert_eq!(progress.now().0, 6);
}
