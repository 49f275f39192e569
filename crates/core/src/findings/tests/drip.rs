//! What is said of drip as it is laid, on plain beds that must stay silent and on bad ones that must speak.

use super::*;
use crate::drip::tests::{bed, ft};
use crate::plan::{DripLaying, RowEnds};
use crate::site::tests::rect;
use crate::site::{AreaKind, ObjectKind, Point, Soil};
use crate::units::Flow;

/// A bed on a house's water: 60 psi at rest, 52 with 10 gpm running; filtered, regulated to 25 psi.
fn sound(w: f64, h: f64, emitters_in: f64, rows_in: f64) -> Plan {
    let mut p = bed(rect(0.0, 0.0, ft(w), ft(h)), "dripline-0.6", emitters_in, rows_in, Point::new(0.0, 0.0));
    let mut run = p.supplies[0].readings[0].clone();
    p.supplies[0].readings[0].kind = crate::plan::ReadingKind::Static { pressure: psi(60.0) };
    run.kind = crate::plan::ReadingKind::Dynamic { flow: Flow::from_gpm(10.0), pressure: psi(52.0) };
    p.supplies[0].readings.push(run);
    p.groups[0].distance = Length::from_ft(10.0);
    p.valves[0].model = "valve-drip-3/4in".into();
    p.valves[0].filter = Some("filter-3/4in".into());
    p.valves[0].regulation = Regulation::Inline { set: psi(25.0) };
    p
}
fn rows(p: &mut Plan) -> &mut crate::plan::RowLaying {
    match p.groups[0].drip.as_mut() {
        Some(DripLaying::Rows(rows)) => rows,
        _ => panic!("rows"),
    }
}
fn soil(p: &mut Plan, soil: Soil) {
    p.groups[0].soil = soil;
}

#[test]
fn plain_beds_are_silent() {
    // A border of four rows, a strip of three, a square of six: all flushed by what a house has.
    for (w, h, emitters, rows) in [(30.0, 4.5, 18.0, 16.0), (20.0, 3.0, 12.0, 15.0), (8.0, 8.0, 18.0, 18.0)] {
        let p = sound(w, h, emitters, rows);
        assert_eq!(codes(&p), Vec::<&str>::new(), "{w} x {h}");
    }
    let mut clay = sound(20.0, 8.0, 18.0, 24.0);
    soil(&mut clay, Soil::Clay);
    assert_eq!(codes(&clay), Vec::<&str>::new());
}

#[test]
fn barrels_on_a_stand_want_a_pump_and_a_tank_up_the_slope_does_not() {
    // Compensating emitters want 8.5 psi: 3 ft of water give 1.3, 90 ft 39.
    let at = |ft: f64| {
        let mut p = sound(20.0, 3.0, 12.0, 15.0);
        p.supplies[0].water = crate::plan::WaterSource::Tank { height: Length::from_ft(ft) };
        p.supplies[0].readings.clear();
        p.supplies[0].chain.clear();
        let known = assess(&Job::of(&p));
        let codes = |f: &[Finding]| f.iter().map(Finding::code).collect::<Vec<_>>();
        (codes(&known.zones[0].findings), codes(&known.supplies[0].findings))
    };
    let (low, water) = at(3.0);
    assert!(low.contains(&"booster-needed"), "{low:?} {water:?}");
    assert!(!water.contains(&"no-backflow"), "{water:?}");
    let (high, water) = at(90.0);
    assert_eq!((high, water), (Vec::<&str>::new(), Vec::<&str>::new()));
}

#[test]
fn rows_farther_apart_than_the_soil_carries_are_told_and_laid_closer() {
    // 23.5 ft between the limits: 24 in hold on clay, not on loam, where 18 do.
    let mut p = sound(24.0, 8.0, 18.0, 24.0);
    rows(&mut p).heading = Some(0.0);
    assert_eq!(codes(&p), ["drip-spacing"]);
    let remedy = of(&p, "drip-spacing").remedies[0].clone();
    assert!(
        matches!(remedy.action, Action::DripCloser { rows: true, apart } if (apart.inches() - 18.0).abs() < 1e-9)
    );
    holds(&p, &remedy);
    let (after, _) = apply(&p, &remedy.edit).unwrap();
    assert_eq!(codes(&after), Vec::<&str>::new());
    // 30 in between the limits: two gaps of 15 in, where sand carries 12 either way.
    let mut sand = sound(20.0, 3.0, 18.0, 18.0);
    soil(&mut sand, Soil::Sand);
    assert_eq!(codes(&sand), ["drip-spacing", "drip-spacing"]);
    // Vegetable rows stand where the crop does.
    p.groups[0].plants = crate::plan::Plants::Vegetables;
    assert_eq!(codes(&p), Vec::<&str>::new());
}

#[test]
fn rows_down_a_slope_are_told_and_tape_bears_none() {
    let mut p = sound(30.0, 4.5, 18.0, 16.0);
    let ObjectKind::Area(area) = &mut p.site.objects[0].what else { panic!() };
    (area.slope_percent, area.slope_toward, area.kind) = (20.0, Some(90.0), AreaKind::Bed);
    // Along the contour it is well, if with many short rows.
    assert!(!codes(&p).contains(&"drip-downhill"));
    rows(&mut p).heading = Some(0.0);
    let found = of(&p, "drip-downhill");
    let Check::DripDownhill { fall, height, tape, .. } = found.finding.check else { panic!() };
    assert!((fall - 20.0).abs() < 0.1 && (height.ft() - 29.5 * 0.2).abs() < 0.05 && !tape);
    let (after, _) = apply(&p, &found.remedies[0].edit).unwrap();
    assert!(!codes(&after).contains(&"drip-downhill"));
    // 3 % is nothing to dripline that compensates, and too much for tape.
    let ObjectKind::Area(area) = &mut p.site.objects[0].what else { panic!() };
    area.slope_percent = 3.0;
    assert_eq!(codes(&p), Vec::<&str>::new());
    p.groups[0].nozzle = "tape-0.3".into();
    p.valves[0].regulation = Regulation::Inline { set: psi(10.0) };
    rows(&mut p).ends = RowEnds::Closed;
    assert!(codes(&p).contains(&"drip-downhill"));
    assert_eq!(of(&p, "drip-downhill").finding.severity, Severity::Fix);
}

#[test]
fn what_is_flushed_too_slowly_is_told_with_its_velocity() {
    // Nineteen rows on one flush valve: 0.77 gpm a row wanted (0.56 in at 1 ft/s), 14.6 in all.
    let p = sound(20.0, 24.0, 12.0, 16.0);
    assert!(codes(&p).contains(&"drip-flush-slow"), "{:?}", codes(&p));
    let Check::DripFlushSlow { slowest, out, .. } = of(&p, "drip-flush-slow").finding.check else { panic!() };
    assert!(slowest.fps() < 0.99 && out.gpm() > 4.0, "{slowest:?} {out:?}");
    // A line past plants has no rows to flush; short micro tubes are no matter.
    let zone = zone_of(&Job::of(&p), &p.valves[0]).unwrap();
    assert!(zone.flushing.is_empty(), "only an assessment flushes");
}

#[test]
fn long_open_runs_may_go_without_a_regulator_but_are_told_what_stands_when_they_stop() {
    let mut p = sound(30.0, 4.5, 18.0, 16.0);
    p.valves[0].regulation = Regulation::None;
    // Short rows eat nothing: 60 psi at rest and nearly as much running.
    p.rules.drip = DripSchool::OpenRuns;
    let now = codes(&p);
    assert!(now.contains(&"drip-no-regulator") && now.contains(&"drip-over-rating"), "{now:?}");
    assert_eq!(of(&p, "drip-over-rating").finding.severity, Severity::Stop);
    // 20 gph a foot of half-inch line a long way off: friction brings it under the rating while it flows.
    p.groups[0].distance = Length::from_ft(700.0);
    p.groups[0].pipe = "drip-poly 1/2in".parse().unwrap();
    p.groups[0].nozzle = "dripline-1".into();
    p.groups[0].spacing = Length::from_in(6.0);
    if let Some(DripLaying::Rows(rows)) = p.groups[0].drip.as_mut() {
        rows.emitter_spacing = Length::from_in(6.0);
    }
    let now = codes(&p);
    assert!(!now.contains(&"drip-no-regulator"), "{now:?}");
    assert_eq!(of(&p, "drip-over-rating").finding.severity, Severity::Fix);
}

#[test]
fn fertiliser_wants_the_reduced_pressure_assembly_or_water_that_nobody_drinks() {
    use crate::plan::{Injection, WaterSource};
    use crate::units::{Minutes, Volume};
    let mut p = sound(30.0, 4.5, 18.0, 16.0);
    let device = |model: &str| ChainItem { id: "c1".into(), part: ChainPart::Device { model: model.into() } };
    p.supplies[0].chain.push(device("double-check"));
    assert!(!supply_codes(&p).contains(&"injection-unprotected"));
    p.supplies[0].injection =
        Some(Injection { stock: Volume::from_gal(2.0), over: Minutes::from_minutes(20.0) });
    assert!(supply_codes(&p).contains(&"injection-unprotected"));
    p.supplies[0].chain[0] = device("reduced-pressure");
    assert!(!supply_codes(&p).contains(&"injection-unprotected"));
    p.supplies[0].chain.clear();
    p.supplies[0].water = WaterSource::Pump { curve: Vec::new(), potable: false, least: None };
    assert!(!supply_codes(&p).contains(&"injection-unprotected"));
}

#[test]
fn a_store_is_held_against_what_hangs_on_it() {
    use crate::plan::Store;
    use crate::units::{Surface, Volume};
    let ft2 = |x: f64| Surface::from_m2(x * 0.3048 * 0.3048);
    let mut p = sound(30.0, 10.0, 18.0, 16.0);
    p.supplies[0].store =
        Some(Store { volume: Volume::from_gal(550.0), roof: Some(ft2(1200.0)), battery_watts: Some(60.0) });
    let need = store_need(&Job::of(&p), &p.supplies[0], Flow::from_gpm(1.0)).unwrap();
    // A lawn of 300 ft2 in its peak week: 1.6 in by 0.8, 0.623 gal for each ft2 and inch.
    assert!((need.week.gal() - 300.0 * 1.6 * 0.8 * 0.623).abs() < 0.5, "{}", need.week.gal());
    assert!((need.days - 7.0 * 550.0 / need.week.gal()).abs() < 1e-6);
    // 1,200 ft2, an inch: 0.623 x 1200 x 0.85 = 635 gal; 0.87 in fill the tank.
    assert!((need.inch_of_rain.unwrap().gal() - 635.5).abs() < 1.0);
    assert!((need.rain_to_fill.unwrap().inches() - 550.0 / 635.5).abs() < 0.01);
    // At 1 gpm as many minutes as gallons; 60 W at 12 V, half as much again.
    assert!((need.running.minutes() - need.week.gal()).abs() < 1e-6);
    assert!((need.battery_ah.unwrap() - 60.0 * need.week.gal() / 60.0 / 12.0 * 1.5).abs() < 1e-6);
    assert!(!supply_codes(&p).contains(&"store-small"));
    p.supplies[0].store.as_mut().unwrap().volume = Volume::from_gal(20.0);
    assert!(supply_codes(&p).contains(&"store-small"));
}

#[test]
fn a_lawn_is_parted_by_what_the_water_gives_at_the_pressure_of_drip() {
    use crate::drip::{DripWish, design};
    // 60 psi, 52 with 10 gpm: 43 psi (25, 8 for parts, 10 of room) are left at 10 (17 / 8)^(1 / 1.852) gpm,
    // less a tenth.
    let mut p = sound(60.0, 40.0, 12.0, 16.0);
    p.groups.clear();
    let job = Job::of(&p);
    let limit = assess(&job).flow_for_drip(&job).unwrap();
    assert!((limit.gpm() - 9.0 * (17.0f64 / 8.0).powf(1.0 / 1.852)).abs() < 0.05, "{}", limit.gpm());
    // 18 gpm of emitters: two parts.
    let made = design(&job, "a1", &DripWish::default(), Some(limit)).unwrap();
    assert_eq!(made.parts.len(), 2);
    assert!(made.parts.iter().all(|l| l.flow() <= limit));
    // Static alone: what the house assumes.
    p.supplies[0].readings.truncate(1);
    let job = Job::of(&p);
    assert_eq!(assess(&job).flow_for_drip(&job), Some(job.rules.assumed_small));
}

#[test]
fn at_pressures_where_no_preset_holds_none_is_asked_for() {
    let mut p = sound(30.0, 4.5, 18.0, 16.0);
    p.valves[0].regulation = Regulation::None;
    assert!(codes(&p).contains(&"drip-no-regulator"));
    p.supplies[0].readings.truncate(1);
    p.supplies[0].readings[0].kind = crate::plan::ReadingKind::Static { pressure: psi(18.0) };
    assert!(!codes(&p).contains(&"drip-no-regulator"), "{:?}", codes(&p));
}

#[test]
fn open_ends_want_no_pressure_and_are_not_starved() {
    use crate::plan::{EmitterJoin, PlantLaying};
    use crate::site::{Planting, SiteObject};
    let mut p = sound(30.0, 10.0, 18.0, 16.0);
    p.site.objects.push(SiteObject {
        id: "t1".into(),
        name: String::new(),
        what: ObjectKind::Plant(Planting {
            canopy: Length::from_ft(4.0),
            at: Point::new(1.0, 1.0),
            to: Some(Point::new(8.0, 1.0)),
            count: 4,
        }),
    });
    p.groups[0].nozzle = "emitter-1".into();
    p.groups[0].drip = Some(DripLaying::Plants(PlantLaying {
        joined: EmitterJoin::OpenEnd,
        each: Some(1),
        basin: Some(crate::units::Volume::from_gal(10.0)),
        other: Vec::new(),
    }));
    let now = codes(&p);
    assert!(!now.contains(&"head-starved"), "{now:?}");
    // Emitters behind as little pressure are.
    p.valves[0].regulation = Regulation::None;
    p.supplies[0].readings.truncate(1);
    p.supplies[0].readings[0].kind = crate::plan::ReadingKind::Static { pressure: psi(6.0) };
    if let Some(DripLaying::Plants(plants)) = p.groups[0].drip.as_mut() {
        plants.joined = EmitterJoin::AtPlant;
    }
    assert!(codes(&p).contains(&"head-starved"), "{:?}", codes(&p));
}

#[test]
fn a_bed_that_its_valve_can_not_feed_is_laid_in_parts() {
    // 2,400 ft2 on one valve: 18 gpm behind water that gives 13 at the pressure of drip.
    let p = sound(60.0, 40.0, 12.0, 16.0);
    let f = of(&p, "regulator-no-room");
    let parts =
        f.remedies.iter().find(|r| matches!(r.action, Action::DripParts(2))).expect("it can be parted");
    holds(&p, parts);
    let (after, _) = apply(&p, &parts.edit).unwrap();
    assert_eq!((after.valves.len(), after.groups[0].drawn.len()), (2, 2));
    let known = assess(&Job::of(&after));
    assert!(known.zones.iter().all(|z| z.zone.as_ref().unwrap().flow.gpm() < 10.0));
    assert_eq!(known.unassigned, 0);
}

#[test]
fn a_ring_with_too_little_in_it_is_told_and_one_as_wide_as_usual_is_not() {
    use crate::plan::{EmitterJoin, PlantLaying};
    use crate::site::{Planting, SiteObject};
    let mut p = sound(60.0, 10.0, 18.0, 16.0);
    p.site.objects.push(SiteObject {
        id: "t1".into(),
        name: String::new(),
        what: ObjectKind::Plant(Planting {
            canopy: Length::from_ft(12.0),
            at: Point::new(1.0, 1.0),
            to: None,
            count: 1,
        }),
    });
    p.groups[0].nozzle = "emitter-2".into();
    let mut with = |each| {
        p.groups[0].drip = Some(DripLaying::Plants(PlantLaying {
            joined: EmitterJoin::FedRing,
            each,
            basin: None,
            other: Vec::new(),
        }));
        codes(&p).contains(&"ring-uneven")
    };
    // As wide as 2 gph keep even: 20 emitters at 1.0 psi. 37 ft round the canopy's edge: 25 (2 / 18.5)^2 = 0.29 psi.
    assert!(!with(None));
    assert!(!with(Some(12)));
    assert!(with(Some(37)));
}
