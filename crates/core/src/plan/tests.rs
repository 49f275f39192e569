use super::*;
use crate::catalogue::Catalogue;
use crate::units::{Flow, Length, Pressure, UnitSystem};
use proptest::prelude::*;

pub(crate) fn group(id: &str, nozzle: &str, lots: &[(u16, u32)]) -> HeadGroup {
    let lots = lots
        .iter()
        .map(|&(arc, count)| Lot {
            arc,
            count,
            valve: None,
        })
        .collect();
    HeadGroup {
        lots,
        ..HeadGroup::new(id, &format!("Area {id}"), nozzle)
    }
}
pub(crate) fn valve(id: &str) -> Valve {
    Valve::new(id, &format!("Valve {id}"), "s1")
}

fn faults(change: impl FnOnce(&mut Plan)) -> String {
    let mut plan = Plan::new("Test", UnitSystem::Us);
    plan.groups.push(group("g1", "spray-12", &[(180, 4)]));
    plan.valves.push(valve("v1"));
    assert!(validate(&plan, Catalogue::builtin()).is_empty());
    change(&mut plan);
    validate(&plan, Catalogue::builtin())
        .iter()
        .map(ToString::to_string)
        .collect::<Vec<_>>()
        .join("\n")
}

#[test]
fn faults_name_the_path_and_what_is_expected() {
    assert_eq!(
        faults(|p| p.groups[0].spacing = Length::from_ft(-3.0)),
        "groups[0].spacing: must be more than zero"
    );
    assert_eq!(
        faults(|p| p.groups[0].lots[0].arc = 400),
        "groups[0].lots[0].arc: 400° can't be set on Spray 12 ft: 45° to 360°"
    );
    assert!(
        faults(|p| p.groups[0].nozzle = "spray-99".into())
            .starts_with("groups[0].nozzle: ‘spray-99’ is not in the catalogue")
    );
    assert!(
        faults(|p| p.groups[0].pipe = "class-200 9in".parse().unwrap())
            .contains("sizes of class-200 are 3/4in")
    );
    assert!(faults(|p| p.valves[0].model = "filter-1in".into()).starts_with("valves[0].model"));
    assert_eq!(
        faults(|p| p.valves[0].id = "g1".into()),
        "valves[0].id: ‘g1’ is used twice"
    );
    assert!(
        faults(|p| p.valves[0].regulation = Regulation::Inline {
            set: Pressure::from_psi(33.0)
        })
        .contains("made for 20, 25, 30, 40, 50 psi")
    );
    assert!(
        faults(|p| p.supplies[0].readings.push(Reading {
            kind: ReadingKind::Static {
                pressure: Pressure::ZERO
            },
            when: String::new(),
            instrument: String::new(),
            place: String::new()
        }))
        .contains("readings[0].measured.pressure: must be more than zero")
    );
    assert!(faults(|p| p.groups[0].lots[0].count = u32::MAX).contains("must be from 1 to 5000"));
}

#[test]
fn heads_that_stay_keep_their_valve_when_counts_change() {
    let mut g = group("g1", "spray-12", &[(90, 4), (180, 6)]);
    g.reassign(|i, _| Some(if i < 5 { "v1".into() } else { "v2".into() }));
    let lots = g.with_counts(&[(90, 4), (180, 7)]);
    assert_eq!(
        lots.iter()
            .map(|l| (l.arc, l.count, l.valve.as_deref()))
            .collect::<Vec<_>>(),
        [
            (90, 4, Some("v1")),
            (180, 1, Some("v1")),
            (180, 5, Some("v2")),
            (180, 1, None)
        ]
    );
}

#[test]
fn removing_a_valve_frees_its_heads_and_undo_puts_them_back() {
    let c = Catalogue::builtin();
    let mut plan = Plan::new("Test", UnitSystem::Us);
    plan.valves.push(valve("v1"));
    plan.groups.push(group("g1", "spray-12", &[(180, 4)]));
    let heads = plan.groups[0].heads_on(None);
    let (plan, _) = apply(
        &plan,
        &Edit::AssignHeads {
            heads,
            valve: Some("v1".into()),
        },
        c,
    )
    .unwrap();
    let (gone, back) = apply(&plan, &Edit::RemoveValve { id: "v1".into() }, c).unwrap();
    assert_eq!(gone.unassigned().len(), 4);
    assert_eq!(apply(&gone, &back, c).unwrap().0, plan);
    let error = apply(&plan, &Edit::RemoveSupply { id: "s1".into() }, c).unwrap_err();
    assert_eq!(error, EditError::StillUsed { id: "s1".into() });
}

#[test]
fn undo_and_redo_walk_the_log() {
    use EntryKind::{Do, Redo, Undo};
    let h = |kinds: &[EntryKind]| {
        let h = History::of((1..).zip(kinds.iter().copied()));
        (h.undo(), h.redo())
    };
    assert_eq!(h(&[]), (None, None));
    assert_eq!(h(&[Do, Do, Undo]), (Some(1), Some(3)));
    assert_eq!(h(&[Do, Do, Undo, Undo, Redo]), (Some(5), Some(3)));
    assert_eq!(h(&[Do, Undo, Do]), (Some(3), None));
}

fn any_edit() -> impl Strategy<Value = Edit> {
    let id = |letter: char| (1..4u8).prop_map(move |n| format!("{letter}{n}"));
    prop_oneof![
        (id('g'), 1..9u32, 1..9u32).prop_map(|(g, a, b)| Edit::PutGroup {
            group: group(&g, "spray-12", &[(90, a), (180, b)]),
            at: Some(0)
        }),
        id('g').prop_map(|id| Edit::RemoveGroup { id }),
        id('v').prop_map(|v| Edit::PutValve {
            valve: valve(&v),
            at: None
        }),
        id('v').prop_map(|id| Edit::RemoveValve { id }),
        (id('g'), 0..8u32, prop::option::of(id('v'))).prop_map(|(group, n, valve)| Edit::AssignHeads {
            heads: (0..n)
                .map(|index| HeadRef {
                    group: group.clone(),
                    index
                })
                .collect(),
            valve
        }),
        (id('v'), 20..60u8).prop_map(|(valve, psi)| Edit::FitRegulation {
            valve,
            regulation: Regulation::Valve {
                set: Pressure::from_psi(f64::from(psi))
            }
        }),
        Just(Edit::SetJob {
            name: "Renamed".into(),
            place: "There".into(),
            local_code: String::new(),
            units: UnitSystem::Metric
        }),
    ]
}

proptest! {
    #[test]
    fn undoing_everything_gives_the_start_and_every_head_is_on_one_valve(
        edits in prop::collection::vec(any_edit(), 0..40),
    ) {
        let c = Catalogue::builtin();
        let start = Plan::new("Test", UnitSystem::Us);
        let (mut plan, mut log) = (start.clone(), Vec::new());
        for edit in edits {
            // Some edits name what is not there: refused, and nothing changes.
            if let Ok((next, inverse)) = apply(&plan, &edit, c) {
                log.push((edit, inverse));
                plan = next;
            }
        }
        prop_assert_eq!(&fold(start.clone(), log.iter().map(|(e, _)| e)).unwrap(), &plan);
        for g in &plan.groups {
            let on_valves: usize = plan.valves.iter().map(|v| g.heads_on(Some(&v.id)).len()).sum();
            prop_assert_eq!(on_valves + g.heads_on(None).len(), g.count() as usize);
        }
        let json = serde_json::to_string(&plan).unwrap();
        prop_assert_eq!(&serde_json::from_str::<Plan>(&json).unwrap(), &plan);
        for (_, inverse) in log.iter().rev() { plan = apply(&plan, inverse, c).unwrap().0; }
        prop_assert_eq!(plan, start);
    }
}

fn drawn_plan() -> Plan {
    use crate::site::Point;
    let mut plan = Plan::new("Drawn", UnitSystem::Us);
    plan.valves.extend([valve("v1"), valve("v2")]);
    let head = |i: u32| DrawnHead {
        id: format!("h{i}"),
        at: Point::new(f64::from(i), 0.0),
        arc: 90,
        facing: 0.0,
        radius: None,
        valve: (i < 3).then(|| "v1".into()),
        locked: false,
    };
    plan.groups.push(HeadGroup {
        drawn: (0..5).map(head).collect(),
        ..HeadGroup::new("g1", "Lawn", "spray-12")
    });
    plan
}

#[test]
fn drawn_heads_go_from_valve_to_valve_as_listed_ones_do() {
    let c = Catalogue::builtin();
    let plan = drawn_plan();
    assert_eq!(validate(&plan, c), []);
    assert_eq!((plan.groups[0].count(), plan.unassigned().len()), (5, 2));
    assert!(plan.groups[0].is_on("v1") && !plan.groups[0].is_on("v2"));
    let (moved, back) = apply(
        &plan,
        &Edit::AssignHeads {
            heads: plan.unassigned(),
            valve: Some("v2".into()),
        },
        c,
    )
    .unwrap();
    assert_eq!(
        moved.groups[0]
            .heads_on(Some("v2"))
            .iter()
            .map(|h| h.index)
            .collect::<Vec<_>>(),
        [3, 4]
    );
    assert_eq!(moved.drawn_head("h4").unwrap().1.valve.as_deref(), Some("v2"));
    assert_eq!(apply(&moved, &back, c).unwrap().0, plan);
    let (freed, back) = apply(&moved, &Edit::RemoveValve { id: "v1".into() }, c).unwrap();
    assert_eq!(freed.unassigned().len(), 3);
    assert_eq!(apply(&freed, &back, c).unwrap().0, moved);
}

#[test]
fn faults_of_the_ground_name_their_place() {
    use crate::site::tests::{lawn, rect};
    use crate::site::{Note, Point, Thing, What};
    let said = |change: &dyn Fn(&mut Plan)| {
        let mut plan = drawn_plan();
        plan.site.things.push(lawn("a1", rect(0.0, 0.0, 5.0, 5.0)));
        change(&mut plan);
        validate(&plan, Catalogue::builtin())
            .iter()
            .map(ToString::to_string)
            .collect::<Vec<_>>()
            .join("\n")
    };
    assert_eq!(said(&|_| ()), "");
    assert_eq!(
        said(&|p| p.groups[0].drawn[1].id = "a1".into()),
        "site.things[0].id: ‘a1’ is used twice"
    );
    assert_eq!(
        said(&|p| p.groups[0].drawn[2].arc = 30),
        "groups[0].drawn[2].arc: 30° can't be set on Spray 12 ft: 45° to 360°"
    );
    assert_eq!(
        said(&|p| p.groups[0].drawn[0].facing = -1.0),
        "groups[0].drawn[0].facing: must be from 0 to 360 degrees"
    );
    assert_eq!(
        said(&|p| p.groups[0].drawn[0].radius = Some(Length::from_ft(20.0))),
        "groups[0].drawn[0].radius: can be turned down from 12 ft to 9 ft"
    );
    assert_eq!(
        said(&|p| p.groups[0].drawn[0].valve = Some("v9".into())),
        "groups[0].drawn[0].valve: there is no valve ‘v9’"
    );
    assert_eq!(
        said(&|p| p.groups[0].nozzle = "dripline-0.6".into())
            .lines()
            .next()
            .unwrap(),
        "groups[0].nozzle: heads on the board need a nozzle that throws: drip rows are listed"
    );
    assert!(
        said(&|p| p.groups[0].lots.push(Lot {
            arc: 90,
            count: 1,
            valve: None
        }))
        .contains("listed heads or drawn ones, not both")
    );
    assert_eq!(
        said(&|p| p.site.north = 400.0),
        "site.north: must be from 0 to 360 degrees"
    );
    let note = |at: Point, text: &str| Thing {
        id: "n1".into(),
        name: String::new(),
        what: What::Note(Note {
            at,
            text: text.into(),
        }),
    };
    assert_eq!(
        said(&|p| p.site.things.push(note(Point::new(0.0, f64::NAN), "x"))),
        "site.things[1].what.at: lies outside the sheet"
    );
    assert_eq!(
        said(&|p| p.site.things.push(note(Point::default(), " "))),
        "site.things[1].what.text: must be 1 to 500 characters"
    );
    assert!(
        said(&|p| p
            .site
            .things
            .extend((0..3001).map(|i| lawn(&format!("b{i}"), rect(0.0, 0.0, 1.0, 1.0)))))
        .starts_with("site.things: has 3002 entries; at most 3000")
    );
    // What refers to a thing that is gone refers to nothing: it is no fault.
    assert_eq!(
        said(&|p| (p.groups[0].area, p.valves[0].place) = (Some("gone".into()), Some("gone".into()))),
        ""
    );
}

#[test]
fn a_valve_stands_in_its_own_box_else_where_its_water_is() {
    use crate::site::{PlaceKind, PlaceMark, Point, Thing, What};
    let mut plan = drawn_plan();
    let place = |id: &str, kind, x: f64, supply: Option<&str>| Thing {
        id: id.into(),
        name: String::new(),
        what: What::Place(PlaceMark {
            kind,
            at: Point::new(x, 0.0),
            supply: supply.map(str::to_owned),
        }),
    };
    let at = |plan: &Plan| plan.valve_point(&plan.valves[0]).map(|p| p.x);
    assert_eq!(at(&plan), None);
    plan.site.things.push(place("m", PlaceKind::Meter, 1.0, None));
    assert_eq!(at(&plan), Some(1.0), "at the meter where no box is drawn");
    plan.site
        .things
        .push(place("b1", PlaceKind::ValveBox, 2.0, Some("s9")));
    assert_eq!(at(&plan), Some(2.0), "any box");
    plan.site
        .things
        .push(place("b2", PlaceKind::ValveBox, 3.0, Some("s1")));
    assert_eq!(at(&plan), Some(3.0), "that of its connection");
    plan.valves[0].place = Some("b1".into());
    assert_eq!(at(&plan), Some(2.0), "its own");
    plan.valves[0].place = Some("m".into());
    assert_eq!(at(&plan), Some(3.0), "a meter is no box");
}

#[test]
fn nozzles_of_the_house_are_part_of_the_job() {
    use crate::catalogue::{ChartRow, Kind, OwnNozzle};
    let c = Catalogue::builtin();
    let row = |psi: f64, gpm: f64| ChartRow {
        pressure: Pressure::from_psi(psi),
        arc: 360,
        radius: Length::from_ft(12.0),
        flow: Flow::from_gpm(gpm),
    };
    let ours = OwnNozzle {
        id: "own-12".into(),
        label: "Field 12".into(),
        kind: Kind::Spray,
        chart: vec![row(20.0, 1.96), row(30.0, 2.4)],
        price: None,
    };
    let plan = Plan::new("t", UnitSystem::Us);
    let (with, back) = apply(&plan, &Edit::PutNozzle { nozzle: ours.clone() }, c).unwrap();
    // ln(2.4 / 1.96) / ln(30 / 20) = 0.4995: an orifice.
    let nozzle = with.catalogue().nozzle("own-12").unwrap();
    assert!((nozzle.exponent.unwrap() - 0.4995).abs() < 1e-3 && (nozzle.flow.gpm() - 2.4).abs() < 1e-9);
    assert!(plan.catalogue().nozzle("own-12").is_none() && c.nozzle("own-12").is_none());
    let group = HeadGroup {
        lots: vec![Lot {
            arc: 360,
            count: 3,
            valve: None,
        }],
        ..HeadGroup::new("g1", "Lawn", "own-12")
    };
    let (used, _) = apply(
        &with,
        &Edit::PutGroup {
            group: group.clone(),
            at: None,
        },
        c,
    )
    .unwrap();
    // The tables follow the rows: undone, they are the built-in ones again.
    assert_eq!(apply(&with, &back, c).unwrap().0, plan);
    assert!(
        matches!(
            apply(&used, &Edit::RemoveNozzle { id: "own-12".into() }, c),
            Err(EditError::Faults(_))
        ),
        "in use"
    );
    assert!(
        matches!(
            apply(&plan, &Edit::PutGroup { group, at: None }, c),
            Err(EditError::Faults(_))
        ),
        "not in this job"
    );
    // On the truck is a mark, of built-in ones too.
    let (truck, _) = apply(
        &used,
        &Edit::SetFavourites {
            ids: vec!["own-12".into(), "spray-15".into()],
        },
        c,
    )
    .unwrap();
    assert_eq!(
        truck.catalogue().nozzles.iter().filter(|n| n.favourite).count(),
        2
    );
    // Read back from its file it computes the same.
    let read: Plan = serde_json::from_str(&serde_json::to_string(&truck).unwrap()).unwrap();
    assert_eq!(
        (&read, read.catalogue().nozzle("own-12")),
        (&truck, truck.catalogue().nozzle("own-12"))
    );
    // What no nozzle does is refused: less flow under more pressure, a built-in name, drip.
    for (wrong, told) in [
        (
            OwnNozzle {
                chart: vec![row(20.0, 2.4), row(40.0, 1.2)],
                ..ours.clone()
            },
            "to the power -1.00",
        ),
        (
            OwnNozzle {
                id: "spray-12".into(),
                ..ours.clone()
            },
            "no name of its own",
        ),
        (
            OwnNozzle {
                kind: Kind::Dripline,
                ..ours.clone()
            },
            "only heads that throw",
        ),
        (
            OwnNozzle {
                chart: vec![],
                ..ours.clone()
            },
            "1 to 200 rows",
        ),
        (
            OwnNozzle {
                chart: vec![row(-1.0, 2.0)],
                ..ours
            },
            "more than zero",
        ),
    ] {
        let Err(EditError::Faults(faults)) = apply(&plan, &Edit::PutNozzle { nozzle: wrong }, c) else {
            panic!("{told}")
        };
        assert!(faults.iter().any(|f| f.message.contains(told)), "{faults:?}");
    }
}
