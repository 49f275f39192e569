use super::*;
use crate::assess::assess;
use crate::climate::Climate;
use crate::job::Job;
use crate::plan::tests::valve;
use crate::plan::{
    Clock, ClosedHours, Date, DayRule, GroundState, HeadGroup, MeterReading, Plan, Plants, Rhythm,
    StationWish, TariffStep, Tuning, Usage, WateringRules,
};
use crate::site::{Exposure, Soil, WaterUse, plant_factor, root_depth};
use crate::units::{Rate, Volume};
use crate::zone::tests::plan;
use rust_decimal::Decimal;

fn near(found: f64, wanted: f64, off: f64) {
    assert!((found - wanted).abs() <= off, "{found}, wanted {wanted}");
}

fn month(month: u8, et0: f64, rain: f64) -> MonthWater {
    MonthWater { month, et0: Length::from_in(et0), rain: Length::from_in(rain) }
}

/// A lawn of sprays, July with 1.90 in.
fn site() -> Plan {
    let mut p = plan(60.0, "spray-12", &[(180, 6)]);
    p.watering.climate = Some(Climate {
        source: "test".into(),
        months: vec![month(1, 0.2, 1.0), month(7, 1.90, 0.0)],
        bare: vec![1],
    });
    p
}

fn july(p: &Plan) -> Times {
    let job = Job::of(p);
    let known = assess(&job);
    times(&job, &known, &Evennesses::of(&job, &known), 7, 2026)
}

#[test]
fn turf_on_loam_is_as_worked_by_hand() {
    let inches = |rate: f64| Rate::from_mmph(rate * 25.4);
    let thirst = Thirst {
        plants: plant_factor(Plants::Lawn, WaterUse::Medium),
        typed: false,
        exposure: 1.0,
        density: 1.0,
    };
    let need = depth(&thirst, month(7, 1.90, 0.0));
    near(need.inches(), 1.52, 1e-9);
    near(multiplier(0.72), 1.202, 5e-4);
    let minutes = minutes_for(need, inches(0.45), multiplier(0.72));
    near(minutes.minutes(), 243.6, 0.05);
    let loam = SoilWater::of(Soil::Loam);
    near(loam.longest_run(inches(0.45), 5.0).unwrap().minutes(), 150.0, 1e-6);
    assert_eq!(loam.longest_run(inches(0.35), 5.0), None, "the soil takes it all");
    near(loam.dose(root_depth(Plants::Lawn, WaterUse::Medium)).inches(), 0.51, 1e-9);
    // Every second day: 69.6 min, one cycle of 70.
    let day = minutes.minutes() * 2.0 / 7.0;
    near(day, 69.6, 0.01);
    assert_eq!(cycles(day, Some(150.0), 43.0).running(), 70);
}

#[test]
fn sprays_on_a_clay_slope_run_four_minutes_and_soak_an_hour() {
    let clay = SoilWater::of(Soil::Clay);
    let longest = clay.longest_run(Rate::from_mmph(1.6 * 25.4), 8.0).unwrap().minutes();
    near(longest, 4.0, 1e-6);
    near(clay.soak(8.0).minutes(), 60.0, 1e-6);
    let cut = cycles(24.0, Some(longest), clay.soak(8.0).minutes());
    assert_eq!((cut.count, cut.minutes, cut.soak), (6, 4, 60));
    assert_eq!(cut.chain(), 6 * 4 + 5 * 60);
}

#[test]
fn cycles_are_whole_minutes_never_longer_than_the_soil_takes_and_lose_nothing() {
    for tenths in 0..600u32 {
        for longest in [None, Some(0.4), Some(1.0), Some(4.6), Some(33.0)] {
            let wanted = f64::from(tenths) / 10.0;
            let cut = cycles(wanted, longest, 12.3);
            assert!(f64::from(cut.running()) + 0.1 * f64::from(cut.count.max(1)) >= wanted);
            assert!(f64::from(cut.running()) < wanted + f64::from(cut.count.max(1)) + 1e-9);
            if let Some(longest) = longest {
                assert!(f64::from(cut.minutes) <= longest.max(1.0) + 0.05, "{wanted} {longest}: {cut:?}");
            }
        }
    }
    assert_eq!(cycles(0.0, None, 10.0).count, 0);
    assert_eq!(cycles(18.09, Some(7.0), 60.0).running(), 18, "three of 6.03 are three of 6");
}

#[test]
fn slope_classes_end_at_three_six_and_twelve_percent() {
    let loam = SoilWater::of(Soil::Loam);
    let on = |slope: f64| (loam.surface_on(slope).inches() * 100.0).round();
    assert_eq!(
        [0.0, 3.0, 4.0, 6.0, 7.0, 12.0, 13.0, 40.0].map(on),
        [30.0, 30.0, 25.0, 25.0, 21.0, 21.0, 17.0, 17.0]
    );
}

#[test]
fn uneven_water_lengthens_runs_up_to_a_cap() {
    near(multiplier(1.0), 1.0, 1e-12);
    near(multiplier(0.60), 1.0 / 0.76, 1e-9);
    near(multiplier(0.10), MOST_MULTIPLIER, 1e-9);
}

#[test]
fn a_station_is_reckoned_from_its_solved_rate() {
    let p = site();
    let job = Job::of(&p);
    let zone = assess(&job).zones[0].zone.clone().unwrap();
    let found = july(&p);
    let station = &found.stations[0];
    let need = station.need.as_ref().unwrap();
    near(need.depth.inches(), 1.52, 1e-9);
    near(need.rate().mmph(), zone.rate.mmph(), 1e-6);
    near(need.du(), 0.60, 1e-9);
    let by_hand = 60.0 * 1.52 * 25.4 / zone.rate.mmph() / 0.76;
    near(station.minutes_week.minutes(), by_hand, 1e-6);
    // 0.51 in of loam's roots by 0.217 in a day: every second day.
    assert_eq!(station.days.as_ref().unwrap().wanted, 2);
    near(station.days.as_ref().unwrap().mean_gap, 2.0, 1e-9);
    let given = station.given_week().minutes();
    assert!(given >= by_hand && given < by_hand + 3.5 * f64::from(station.cycles.count));
    assert!(station.says.contains(&StationSays::UsualEvenness));
    assert_eq!(found.from, WaterFrom::Climate);
}

#[test]
fn rain_over_need_runs_nothing_and_a_missing_month_is_told() {
    let p = site();
    let job = Job::of(&p);
    let known = assess(&job);
    let even = Evennesses::of(&job, &known);
    let wet = times(&job, &known, &even, 1, 2026);
    assert_eq!(wet.stations[0].says, [StationSays::RainGivesAll]);
    assert!(!wet.stations[0].runs() && wet.night.runs.is_empty());
    assert_eq!((wet.night.finish, wet.night.bound.by), (0, BoundBy::Nothing));
    let other = times(&job, &known, &even, 5, 2026);
    assert_eq!(other.from, WaterFrom::MonthMissing);
    near(other.week.water.et0.inches(), 1.6, 1e-9);
    assert_eq!(peak_month(&job), 7);
}

#[test]
fn more_sun_more_water_and_shade_of_bare_trees_is_none() {
    let mut p = site();
    p.groups[0].exposure = Exposure::Shade;
    let shade = july(&p).stations[0].minutes_week.minutes();
    p.groups[0].exposure = Exposure::ReflectedHeat;
    let heat = july(&p).stations[0].minutes_week.minutes();
    near(heat / shade, 1.2 / 0.65, 1e-9);
    p.groups[0].exposure = Exposure::Shade;
    p.watering.climate.as_mut().unwrap().bare = vec![7];
    p.watering.stations = vec![StationWish { leafy_shade: true, ..StationWish::new("v1") }];
    near(july(&p).stations[0].minutes_week.minutes() / shade, 1.0 / 0.65, 1e-9);
}

#[test]
fn wishes_change_factor_rhythm_and_minutes() {
    let mut p = site();
    let plain = july(&p).stations[0].clone();
    p.watering.stations = vec![StationWish {
        factor: Some(0.4),
        rhythm: Some(Rhythm::Often),
        tuned: vec![
            Tuning {
                when: "2026-07-10".into(),
                who: "Ana".into(),
                found: GroundState::TooDry,
                share: 1.1,
                rests: None,
            };
            2
        ],
        ..StationWish::new("v1")
    }];
    let wished = july(&p).stations[0].clone();
    near(wished.minutes_week / plain.minutes_week, 0.5 * 1.21, 1e-9);
    assert_eq!(wished.days.as_ref().unwrap().wanted, 1);
    p.watering.stations[0].factor = None;
    p.watering.stations[0].regime = Some(2);
    let regime = july(&p).stations[0].clone();
    near(regime.minutes_week / plain.minutes_week, 0.5 / 0.8 * 1.21, 1e-9);
}

#[test]
fn two_plants_on_a_valve_the_neediest_governs_and_the_other_is_told() {
    let mut p = site();
    let mut bed = p.groups[0].clone();
    (bed.id, bed.name, bed.plants) = ("g9".into(), "Shrubs".into(), Plants::Bed);
    p.groups.push(bed);
    let station = july(&p).stations[0].clone();
    assert_eq!(station.need.as_ref().unwrap().group, p.groups[0].id);
    let times = station.says.iter().find_map(|s| match s {
        StationSays::OthersGetMore { name, times } => Some((name.as_str(), *times)),
        _ => None,
    });
    let (name, times) = times.expect("shrubs get more than they need");
    assert_eq!(name, "Shrubs");
    near(times, 0.8 / 0.5, 1e-9);
    assert!(
        station.says.iter().any(|s| matches!(s, StationSays::RhythmDiffers { days: 7, .. })),
        "1.02 in of roots by 0.136 in a day: {:?}",
        station.says
    );
}

#[test]
fn the_rules_days_and_minutes_are_kept_and_what_is_missing_is_said() {
    let mut p = site();
    p.watering.rules = WateringRules {
        days: DayRule::Weekdays { days: vec![1, 4] },
        most_minutes: Some(20),
        ..WateringRules::default()
    };
    let found = july(&p);
    let station = &found.stations[0];
    assert!(station.cycles.running() <= 20);
    let days = station.days.as_ref().unwrap();
    near(days.a_week(), 2.0, 0.01);
    assert!(station.says.contains(&StationSays::DaysTooFar { gap: 4, holds: 2 }), "{:?}", station.says);
    let whole = station.minutes_week.minutes();
    near(station.given_week().minutes() + station.missing().minutes(), whole, 0.2);
    assert!(whole > 40.0, "or nothing would be missing: {whole}");
    let monday = days.in_month[0].0;
    assert_eq!(monday.to_string(), "2026-07-02", "a Thursday comes first");
}

#[test]
fn odd_days_leave_the_31st_and_never_two_in_a_row() {
    for rule in [DayRule::Odd, DayRule::Even] {
        for m in 1..=12 {
            let plan = day_plan(&rule, 1, 2028, m).unwrap();
            let days: Vec<String> = plan.in_month.iter().map(ToString::to_string).collect();
            assert!(!days.iter().any(|d| d.ends_with("-31")), "{rule:?} {days:?}");
            assert!(days.len() >= 14);
            assert!(plan.in_month.windows(2).all(|d| (d[1].0 - d[0].0).num_days() >= 2));
        }
    }
    let every = day_plan(&DayRule::Every { days: 3 }, 1, 2026, 7).unwrap();
    near(every.mean_gap, 3.0, 1e-9);
    assert_eq!(every.longest_gap, 3, "counted on over the end of the month");
    assert_eq!(day_plan(&DayRule::Weekdays { days: vec![] }, 1, 2026, 7), None);
}

#[test]
fn waiting_for_the_next_allowed_day_is_never_longer_than_wanted_where_it_can_be_helped() {
    for wanted in 1..10 {
        let plan = day_plan(&DayRule::Any, wanted, 2026, 3).unwrap();
        near(plan.mean_gap, f64::from(wanted), 1e-9);
        let some = day_plan(&DayRule::Weekdays { days: vec![1, 3, 6] }, wanted, 2026, 3).unwrap();
        assert!(some.longest_gap <= wanted.max(3), "{wanted}: {some:?}");
    }
}

#[test]
fn a_window_over_midnight_with_closed_hours() {
    let mut rules = WateringRules::default();
    assert_eq!(Window::of(&rules).length, 8 * 60);
    assert_eq!(Window::of(&rules).clock(150), Clock::at(0, 30));
    rules.opens = Clock::at(6, 0);
    rules.closes = Clock::at(22, 0);
    rules.closed = Some(ClosedHours { from: Clock::at(10, 0), to: Clock::at(18, 0) });
    let window = Window::of(&rules);
    assert_eq!((window.length, window.open_minutes()), (16 * 60, 8 * 60));
    assert_eq!(window.closed[0], (240, 720));
    rules.opens = Clock::at(12, 0);
    let window = Window::of(&rules);
    assert_eq!(window.closed[0], (0, 360), "it is closed already when it opens");
    assert_eq!(window.open_minutes(), 4 * 60);
}

#[test]
fn clocks_and_days_are_read_as_people_write_them() {
    assert_eq!("5:45".parse::<Clock>().unwrap().to_string(), "05:45");
    for bad in ["24:00", "12:60", "noon", "12", "-1:00", "1:2:3", "+5:00"] {
        assert!(bad.parse::<Clock>().is_err(), "{bad}");
    }
    assert!("2026-02-30".parse::<Date>().is_err());
    assert_eq!("2026-07-03".parse::<Date>().unwrap().to_string(), "2026-07-03");
}

#[test]
fn a_meter_rolls_over_and_a_tariff_has_steps() {
    let reading = |day: &str, gallons: f64| MeterReading {
        on: day.parse().unwrap(),
        showed: Volume::from_gal(gallons),
    };
    let mut usage = Usage {
        meter_size: Some(Volume::from_gal(10_000.0)),
        readings: vec![
            reading("2026-07-01", 9_500.0),
            reading("2026-07-08", 9_800.0),
            reading("2026-07-15", 240.0),
        ],
        tariff: Vec::new(),
    };
    let all = used(&usage);
    near(all[0].water.gal(), 300.0, 1e-6);
    near(all[1].water.gal(), 440.0, 1e-6);
    assert_eq!((all[0].rolled_over, all[1].rolled_over), (false, true));
    usage.meter_size = None;
    assert_eq!(used(&usage).len(), 1, "what it did after that nobody knows");
    let step = |up_to: Option<f64>, price: &str| TariffStep {
        up_to: up_to.map(Volume::from_litres),
        price: price.parse().unwrap(),
    };
    let tariff = [step(Some(10_000.0), "1.10"), step(None, "2.40")];
    // 10 at 1.10 and 5 at 2.40.
    assert_eq!(cost(&tariff, Volume::from_litres(15_000.0)), Some(Decimal::new(2300, 2)));
    assert_eq!(cost(&tariff, Volume::from_litres(4_000.0)), Some(Decimal::new(440, 2)));
    assert_eq!(cost(&[], Volume::from_litres(1.0)), None);
    assert_eq!(cost(&tariff[..1], Volume::from_litres(15_000.0)), None, "dearer water has no price");
    // 30 of 120: a quarter of 80, and half of a fixed 20.
    let share = share_of_bill(
        Volume::from_litres(30.0),
        Volume::from_litres(120.0),
        Decimal::from(80),
        Decimal::from(20),
        0.5,
    );
    assert_eq!(share, Some(Decimal::from(30)));
}

#[test]
fn stations_of_one_water_never_run_over_its_design_flow_nor_take_pressure_from_one_another() {
    let mut p = site();
    for n in 2..6 {
        let mut more = p.groups[0].clone();
        more.id = format!("g{n}");
        more.listed[0].valve = Some(format!("v{n}"));
        p.groups.push(HeadGroup { name: format!("Lawn {n}"), ..more });
        p.valves.push(valve(&format!("v{n}")));
    }
    let found = july(&p);
    let night = &found.night;
    let design = night.flows[0].design.unwrap();
    let one = found.stations[0].flow;
    assert!(night.flows[0].peak <= design.max(one), "{:?}", night.flows);
    assert!(night.margin.as_ref().unwrap().0 >= crate::units::Pressure::ZERO);
    assert!(night.broken.is_empty());
    for step in night.steps() {
        let on = night.running(step);
        if on.len() > 1 {
            let job = Job::of(&p);
            let names: Vec<&str> = on.iter().map(|s| found.stations[*s].valve.as_str()).collect();
            let together = crate::zone::run_together(&job, &names).unwrap();
            for zone in &together.zones {
                let alone = zone.worst_alone.unwrap();
                let low = zone.lowest();
                let aim = crate::water::Aim::ALL
                    .into_iter()
                    .map(|a| a.wanted(low.band, false))
                    .find(|wanted| alone >= *wanted)
                    .unwrap();
                assert!(low.nozzle >= aim, "{} under {aim:?}", zone.valve);
            }
        }
    }
    assert_eq!(july(&p), found, "the same job gives the same night");
}

#[test]
fn the_year_follows_its_months_and_the_sheet_says_so() {
    let p = site();
    let job = Job::of(&p);
    let known = assess(&job);
    let even = Evennesses::of(&job, &known);
    let sheet = sheet(&job, &known, &even, 2026);
    assert_eq!(sheet.peak.month, 7);
    near(sheet.months[6].adjust, 1.0, 1e-9);
    assert_eq!(sheet.months[0].adjust, 0.0);
    let one = &sheet.months[6];
    let by_hand = one.stations[0].flow.lpm() * one.stations[0].given_week().minutes() * 31.0 / 7.0;
    near(one.water.litres(), by_hand, 1e-6);
    near(sheet.water().litres(), sheet.water_of(0).litres(), 1e-6);
    let (letter, programme) = sheet.programme(0).unwrap();
    assert_eq!((letter, programme.stations.as_slice()), ('A', &[0][..]));
    assert_eq!(most_on_one(&sheet.programmes), 1);
}

#[test]
fn readings_point_to_what_is_off_and_to_nothing_where_nothing_is() {
    let read = |open: &[&str], predicted: f64, read: f64| Reading {
        open: open.iter().map(|v| (*v).to_owned()).collect(),
        predicted: crate::units::Flow::from_lpm(predicted),
        read: crate::units::Flow::from_lpm(read),
    };
    let alone =
        [("a", 20.0), ("b", 30.0), ("c", 8.0)].map(|(v, q)| (v.to_owned(), crate::units::Flow::from_lpm(q)));
    let found = |readings: &[Reading]| suspects(readings, &alone);
    let sound = [read(&["a"], 20.0, 20.4), read(&["a", "b"], 48.0, 47.0), read(&[], 0.0, 0.1)];
    assert_eq!(found(&sound), []);
    let hole = [read(&["a"], 20.0, 31.0), read(&["a", "b"], 48.0, 58.0), read(&["b"], 30.0, 30.0)];
    assert_eq!(found(&hole), [Suspect::TooMuch("a".into())]);
    let dirt = [read(&["a"], 20.0, 20.0), read(&["b"], 30.0, 24.0), read(&["c"], 8.0, 8.1)];
    assert_eq!(found(&dirt), [Suspect::TooLittle("b".into())]);
    let stuck = [read(&["a"], 20.0, 27.0), read(&[], 0.0, 8.3)];
    assert_eq!(found(&stuck), [Suspect::StaysOpen(Some("c".into()))]);
    assert_eq!(found(&[read(&[], 0.0, 2.0)]), [Suspect::StaysOpen(None)], "a leak is like no station");
    assert_eq!(found(&[]), []);
}

#[test]
fn a_drain_that_opens_by_itself_is_counted_at_every_cycle() {
    let mut p = site();
    let before = july(&p).stations[0].clone();
    let joint = |id: &str, kind, x: f64| crate::plan::Joint {
        id: id.into(),
        kind,
        at: crate::site::Point::new(x, 0.0),
    };
    p.piping.joints =
        vec![joint("j1", crate::plan::JointKind::Tee, 1.0), joint("j2", crate::plan::JointKind::Drain, 5.0)];
    let pipe = p.groups[0].pipe.clone();
    p.piping.legs = vec![crate::plan::PipeLeg::straight(
        "p1",
        crate::plan::LegOf::Lateral("v1".into()),
        "j1",
        "j2",
        pipe,
    )];
    let job = Job::of(&p);
    let known = assess(&job);
    let held = crate::zone::lateral_volume(known.zones[0].inputs.as_ref().unwrap());
    assert!(held.litres() > 1.0);
    let found = july(&p).stations[0].clone();
    assert!(found.says.contains(&StationSays::Drains(held)));
    let runs = found.days.as_ref().unwrap().a_week() * f64::from(found.cycles.count);
    let more = month_volume(&found, 7).litres() - month_volume(&before, 7).litres();
    near(more, held.litres() * runs * 31.0 / 7.0, 1.0);
}

#[test]
fn rain_in_the_gauge_makes_up_for_days_but_for_no_more_than_roots_hold() {
    let stations = july(&site()).stations;
    let days = |inches: f64| rain_makes_up(&stations, Length::from_in(inches))[0].1;
    // 1.52 in a week are 0.217 a day; half of the rain counts; loam holds 0.51.
    assert_eq!([0.0, 0.4, 0.5, 1.0, 5.0].map(days), [0, 0, 1, 2, 2]);
    // Noted, it changes no minute; where nothing rests there is nothing to note.
    let job = Job::of(&site());
    let inch = Length::from_in(1.0);
    let edit = rained(&job, &stations, inch, "2026-07-05", "Ana").unwrap();
    let next = job.apply(&edit).unwrap().0;
    let noted = &next.watering.station("v1").unwrap().tuned[0];
    assert_eq!((noted.found, noted.rests), (GroundState::Rained, Some(2)));
    assert_eq!(july(next.plan()).stations[0].minutes_week, stations[0].minutes_week);
    assert_eq!(rained(&job, &stations, Length::from_in(0.1), "", ""), None);
}

#[test]
fn starts_that_break_something_are_kept_and_told() {
    let mut p = site();
    let mut more = p.groups[0].clone();
    (more.id, more.listed[0].valve) = ("g2".into(), Some("v2".into()));
    p.groups.push(more);
    p.valves.push(valve("v2"));
    assert!(july(&p).night.broken.is_empty());
    p.watering.controller.at_once = 1;
    let at = |valve: &str, start: u32| StationWish { start: Some(start), ..StationWish::new(valve) };
    p.watering.stations = vec![at("v1", 10), at("v2", 10)];
    let night = july(&p).night;
    assert!(night.runs.iter().filter(|r| r.cycle == 0).all(|r| r.start == 10));
    assert!(
        matches!(&night.broken[..], [Broken::Together { at: 10, stations }, ..] if stations.len() == 2),
        "{:?}",
        night.broken
    );
    // Closed hours that leave no stretch: it runs all the same, and that is told; no bound is over the
    // finish.
    p.watering.stations.clear();
    p.watering.rules.closed = Some(ClosedHours { from: Clock::at(0, 0), to: Clock::at(23, 59) });
    let night = july(&p).night;
    assert!(night.broken.iter().any(|b| matches!(b, Broken::Closed { .. })));
    assert!(night.bound.minutes <= night.finish);
}

#[test]
fn comparing_kinds_wants_what_run_times_want_and_a_year_is_all_its_months() {
    use crate::plan::need_per_week;
    let mut p = site();
    let area = crate::site::Area::default();
    // July 1.90 in, no rain; in January half of an inch of rain is more than a lawn wants.
    let need = need_per_week(&p, &area);
    near(need.depth.inches(), 1.52, 1e-9);
    near(need.weeks, 31.0 / 7.0, 1e-9);
    p.watering.climate.as_mut().unwrap().months.push(month(8, 0.95, 0.0));
    near(need_per_week(&p, &area).weeks, 31.0 / 7.0 * 1.5, 1e-9);
    p.watering.climate = None;
    let need = need_per_week(&p, &area);
    near(need.depth.inches(), p.rules.peak_et.inches() * 0.8, 1e-9);
    near(need.weeks, p.rules.peak_weeks, 1e-9);
}

#[test]
fn minutes_by_the_month_save_what_the_fullest_month_would_give_the_others() {
    // Two lawns' months: 2.00 in of ET0 in July, 1.00 in a week in June and August, nothing else. Left at
    // July's minutes, June and August would get twice their water.
    let mut p = site();
    let week = |m, et0| month(m, et0, 0.0);
    p.watering.climate = Some(Climate {
        source: "test".into(),
        months: (1..=12)
            .map(|m| {
                week(
                    m,
                    match m {
                        6 | 8 => 1.0,
                        7 => 2.0,
                        _ => 0.0,
                    },
                )
            })
            .collect(),
        bare: Vec::new(),
    });
    p.watering.usage.tariff = vec![TariffStep { up_to: None, price: Decimal::from(2) }];
    let job = Job::of(&p);
    let known = assess(&job);
    let year = months(&job, &known, &Evennesses::of(&job, &known), 2026);
    let (water, money) = saved_by_months(&job, &year);
    let of = |m: usize| year[m - 1].water.litres();
    assert!(of(6) > 1000.0 && of(3) == 0.0, "{} {}", of(6), of(3));
    // June and August have 30 and 31 days; whole minutes make it a little more or less than twice.
    near(water.litres() / (of(6) + of(8)), 1.0, 0.05);
    let price = water.litres() / 1000.0 * 2.0;
    near(rust_decimal::prelude::ToPrimitive::to_f64(&money.unwrap()).unwrap(), price, 0.03);
    // One month alike every other saves nothing; without a tariff no money is told.
    p.watering.usage.tariff.clear();
    let all = &mut p.watering.climate.as_mut().unwrap().months;
    all.iter_mut().for_each(|m| m.et0 = Length::from_in(1.0));
    let job = Job::of(&p);
    let known = assess(&job);
    let year = months(&job, &known, &Evennesses::of(&job, &known), 2026);
    let (water, money) = saved_by_months(&job, &year);
    near(water.litres(), 0.0, 1e-6);
    assert_eq!(money, None);
}
