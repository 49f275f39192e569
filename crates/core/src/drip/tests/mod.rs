//! Drip worked by hand, then what must hold on any ground.

mod long;
mod plants;
mod rows;
mod zones;

use super::*;
use crate::job::Job;
use crate::network::Emission;
use crate::plan::{DrawnHead, DripLaying, HeadGroup, Plan, Reading, ReadingKind, RowLaying, Valve};
use crate::site::tests::{lawn, rect};
use crate::site::{Point, Shape, Soil};
use crate::units::{Flow, Length, Pressure, Surface, UnitSystem, Volume};

pub(crate) fn near(a: f64, b: f64, tolerance: f64) {
    assert!((a - b).abs() <= tolerance, "{a} is not {b}");
}
pub(crate) fn inlet(id: &str, at: Point) -> DrawnHead {
    DrawnHead {
        id: id.into(),
        at,
        arc: 360,
        facing: 0.0,
        radius: None,
        valve: Some("v1".into()),
        locked: false,
    }
}
/// Rows on one area, fed at a point, behind a fixed pressure.
pub(crate) fn bed(shape: Shape, nozzle: &str, emitters_in: f64, rows_in: f64, at: Point) -> Plan {
    let mut plan = Plan::new("Test", UnitSystem::Us);
    plan.rules.fittings = 0.0;
    plan.site.objects.push(lawn("a1", shape));
    plan.supplies[0].readings.push(Reading {
        kind: ReadingKind::Static { pressure: Pressure::from_psi(25.0) },
        when: String::new(),
        instrument: String::new(),
        tap: String::new(),
    });
    plan.valves.push(Valve::new("v1", "Drip", "s1"));
    let mut group = HeadGroup::new("g1", "Bed", nozzle);
    group.area = Some("a1".into());
    group.spacing = Length::from_in(rows_in);
    group.pipe = "drip-poly 3/4in".parse().unwrap();
    group.drip = Some(DripLaying::Rows(RowLaying::new(Length::from_in(emitters_in))));
    group.drawn.push(inlet("h1", at));
    plan.groups.push(group);
    plan
}
pub(crate) fn ft(x: f64) -> f64 {
    x * 0.3048
}
pub(crate) fn laid(plan: &Plan) -> Laid {
    lay(&Job::of(plan), &plan.groups[0]).unwrap().remove(0)
}

#[test]
fn estimates_by_area_are_what_a_hand_computes() {
    let by = |ft2: f64, rows: f64, emitters: f64, gph: f64| {
        estimate(
            Surface::from_m2(ft2 * 0.3048 * 0.3048),
            Length::from_in(rows),
            Length::from_in(emitters),
            Flow::from_gpm(gph / 60.0),
        )
    };
    // 264 x 12 / 16; 198 x 12 / 18; 132 x 0.6 / 60; 231.1 x 0.6 / 288.
    let loam = by(264.0, 16.0, 18.0, 0.6);
    near(loam.tubing.ft(), 198.0, 1e-6);
    near(loam.emitters, 132.0, 1e-6);
    near(loam.flow.gpm(), 1.32, 1e-6);
    near(loam.rate.mmph() / 25.4, 0.482, 0.001);
    near(by(100.0, 12.0, 12.0, 0.6).rate.mmph() / 25.4, 0.963, 0.001);
    let small = by(150.0, 18.0, 12.0, 0.4);
    near(small.tubing.ft(), 100.0, 1e-6);
    near(small.flow.gpm(), 0.667, 0.001);
    near(small.rate.mmph() / 25.4, 0.43, 0.003);
    // 1,460 ft2 in three zones.
    let turf = by(1460.0, 18.0, 12.0, 0.9);
    near(turf.tubing.ft(), 973.3, 0.1);
    near(turf.flow.gpm() / 3.0, 4.87, 0.01);
    near(turf.rate.mmph() / 25.4, 0.963, 0.001);
}

fn row(inlet: f64, gph: f64, every: f64, slope: f64) -> RowAsk {
    RowAsk {
        inlet: Pressure::from_psi(inlet),
        emission: Emission::Compensating { flow: Flow::from_gpm(gph / 60.0), min: Pressure::from_psi(8.5) },
        spacing: Length::from_in(every),
        inside: Length::from_in(0.560),
        c: 140.0,
        slope,
        least: Pressure::from_psi(8.5),
        most: Pressure::from_psi(60.0),
    }
}

#[test]
fn the_longest_rows_are_those_of_a_separate_computation() {
    // Marched emitter by emitter outside the program: emitters, psi at the last and at the lowest.
    let cases = [
        (row(25.0, 0.6, 12.0, 0.0), 415, 8.533, 8.533),
        (row(25.0, 0.6, 12.0, 0.03), 368, 8.521, 8.521),
        (row(25.0, 0.6, 12.0, -0.03), 454, 9.636, 8.551),
        (row(40.0, 0.9, 12.0, 0.0), 400, 8.581, 8.581),
        (row(25.0, 0.26, 18.0, 0.0), 620, 8.524, 8.524),
        (row(15.0, 0.6, 12.0, 0.0), 299, 8.527, 8.527),
        (row(25.0, 0.6, 18.0, 0.10), 203, 8.574, 8.574),
    ];
    for (ask, emitters, last, lowest) in cases {
        let found = longest_row(&ask);
        assert_eq!(found.emitters, emitters, "{ask:?}");
        near(found.last.psi(), last, 0.002);
        near(found.lowest.psi(), lowest, 0.002);
        near(found.length.m(), ask.spacing.m() * emitters as f64, 1e-9);
    }
    near(longest_row(&row(25.0, 0.6, 12.0, 0.0)).flow.gpm(), 4.15, 1e-9);
}

#[test]
fn quarter_inch_tube_is_ten_percent_low_after_the_known_lengths() {
    let ask = |gph: f64, every: f64| RowAsk {
        emission: Emission::Orifice {
            flow: Flow::from_gpm(gph / 60.0),
            at_pressure: Pressure::from_psi(25.0),
            exponent: 0.5,
            regulator: None,
        },
        inside: Length::from_in(0.170),
        // A tenth less flow is 0.81 of the pressure.
        least: Pressure::from_psi(25.0 * 0.81),
        ..row(25.0, gph, every, 0.0)
    };
    near(longest_row(&ask(0.5, 6.0)).length.ft(), 26.0, 0.6);
    near(longest_row(&ask(0.8, 6.0)).length.ft(), 19.0, 0.6);
    near(longest_row(&ask(0.5, 12.0)).length.ft(), 42.0, 1.1);
}

#[test]
fn a_row_that_nothing_reaches_says_so() {
    let none = longest_row(&row(8.0, 0.6, 12.0, 0.0));
    assert_eq!((none.emitters, none.end), (0, RowEnd::Nothing));
    let steep = longest_row(&row(25.0, 0.6, 12.0, -0.6));
    assert_eq!(steep.end, RowEnd::Most, "{steep:?}");
}

#[test]
fn a_soil_is_wetted_as_wide_as_is_known_and_twice_as_wide_after_four_times_the_water() {
    let hour = Volume::from_gal(0.6);
    for (soil, inches) in [(Soil::Sand, 10.0), (Soil::Loam, 18.0), (Soil::Clay, 24.0)] {
        near(wetted_width(soil, hour).inches(), inches, 1e-9);
        near(wetted_width(soil, Volume::from_gal(2.4)).inches(), 2.0 * inches, 1e-9);
        let time = minutes_to_wet(soil, Flow::from_gpm(0.01), Length::from_in(inches));
        near(time.minutes(), 60.0, 1e-6);
    }
}

#[test]
fn the_table_of_rows_holds_the_known_row_and_goes_the_right_ways() {
    let catalogue = crate::catalogue::Catalogue::builtin();
    let table = row_table(catalogue, catalogue.nozzle("dripline-0.6").unwrap()).unwrap();
    let at = |psi: f64, inches: f64| {
        let row = table.rows.iter().find(|r| (r.0.psi() - psi).abs() < 1e-9).unwrap();
        let place = table.spacings.iter().position(|s| (s.inches() - inches).abs() < 1e-9).unwrap();
        row.1[place]
    };
    let [level, down, up] = at(25.0, 12.0);
    // Down the slope a row ends where the tube bears no more, or later than on the level; up it ends sooner.
    assert_eq!((level.emitters, up.emitters), (415, 368));
    assert!(down.emitters >= 400, "{down:?}");
    assert!(at(40.0, 12.0)[0].length > level.length && at(25.0, 24.0)[0].length > level.length);
    assert!(row_table(catalogue, catalogue.nozzle("spray-12").unwrap()).is_none());
    let quarter = row_table(catalogue, catalogue.nozzle("quarter-0.5").unwrap()).unwrap();
    near(quarter.rows[2].1[0][0].length.ft(), 26.0, 0.6);
}

#[test]
fn tape_takes_what_is_known_a_hundred_feet() {
    // 100 ft every 6 in: 200 emitters of 0.25 and 0.46 gph.
    for (nozzle, gpm) in [("tape-0.25", 0.833), ("tape-0.46", 1.533)] {
        let mut plan = bed(rect(0.0, 0.0, ft(100.5), ft(0.55)), nozzle, 6.0, 12.0, Point::new(0.0, 0.0));
        if let Some(DripLaying::Rows(rows)) = plan.groups[0].drip.as_mut() {
            rows.ends = crate::plan::RowEnds::Closed;
        }
        let row = laid(&plan);
        near(row.dripline().ft(), 100.0, 1e-6);
        near(row.flow().gpm(), gpm, 0.01);
    }
}
