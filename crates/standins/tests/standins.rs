//! The stand-ins behave like what they stand in for.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use fenlo_core::assess::{Assessment, assess};
use fenlo_core::climate::{DAYS_IN_MONTH, stations};
use fenlo_core::job::Job;
use fenlo_formats::controller::{Fault, FaultKind, PROGRAMME, Programme, Run};
use fenlo_formats::{read_climate, read_job};
use fenlo_standins::controller::run;
use fenlo_standins::weather::{csv, days};

#[test]
fn a_year_of_weather_comes_out_near_the_stations_months_and_is_the_same_again() {
    for station in stations() {
        let year = days(station, 2026, 3);
        assert_eq!(year.len(), 365);
        assert_eq!(days(station, 2026, 3), year);
        assert_ne!(days(station, 2026, 4), year, "another seed, another year");
        assert!(year.iter().all(|d| d.low < d.high && d.et0 >= 0.0 && d.rain >= 0.0));
        // Of many years the mean: rain of single months scatters widely, and so it should.
        let rain: f64 = (0..12).flat_map(|s| days(station, 2026, s)).map(|d| d.rain).sum::<f64>() / 12.0;
        let table: f64 = station.rain.iter().sum();
        assert!((rain / table - 1.0).abs() < 0.15, "{}: {rain} of {table}", station.name);
        let july: Vec<f64> =
            year.iter().filter(|d| d.date.to_string().starts_with("2026-07")).map(|d| d.high).collect();
        let mean = july.iter().sum::<f64>() / july.len() as f64;
        assert!((mean - station.high[6]).abs() < 3.0, "{}: {mean}", station.name);
    }
}

#[test]
fn its_log_is_read_as_a_climate() {
    let station = &stations()[0];
    let (climate, faults) = read_climate(&csv(&days(station, 2026, 1)), None);
    assert!(faults.is_empty(), "{faults:?}");
    let climate = climate.unwrap();
    assert!(climate.missing().is_empty());
    // Penman-Monteith with sun and wind lies near Hargreaves with temperatures alone.
    let (by_days, by_table) = (climate.month(7).unwrap(), station.climate().month(7).unwrap());
    let share = by_days.et0 / by_table.et0;
    assert!((0.7..1.3).contains(&share), "{share}");
    assert_eq!(DAYS_IN_MONTH.iter().sum::<u32>(), 365);
}

fn house() -> (Job, Assessment) {
    let job = read_job(include_bytes!("../../../fixtures/corner-plot.json")).unwrap();
    let known = assess(&job);
    (job, known)
}

fn programme() -> Programme {
    let run = |valve: &str, start, minutes| Run { valve: valve.into(), start, minutes };
    Programme { format: PROGRAMME.into(), runs: vec![run("v1", 0, 10), run("v3", 4, 20), run("v5", 30, 5)] }
}

#[test]
fn a_sound_site_reads_what_its_zones_take() {
    let (job, known) = house();
    let log = run(&job, &known, &programme(), &[]);
    let spans: Vec<(u32, u32)> = log.steps.iter().map(|s| (s.from, s.to)).collect();
    assert_eq!(spans, [(0, 4), (4, 10), (10, 24), (24, 30), (30, 35)]);
    let zone = |v: &str| known.zone(v).unwrap().zone.as_ref().unwrap().flow.lpm();
    assert!((log.steps[0].flow_lpm.unwrap() - zone("v1")).abs() < 1e-6);
    let both = log.steps[1].flow_lpm.unwrap();
    assert!(both < zone("v1") + zone("v3") && both > zone("v1"), "together each gets a little less");
    assert_eq!(log.steps[3].flow_lpm, Some(0.0));
    assert!(log.steps[3].pressure_kpa > log.steps[0].pressure_kpa, "nothing runs: it stands higher");
}

#[test]
fn every_fault_shows_at_the_sensor() {
    let (job, known) = house();
    let sound = run(&job, &known, &programme(), &[]);
    let with = |is: FaultKind, valve: &str| {
        let fault = Fault { valve: valve.into(), is };
        run(&job, &known, &programme(), &[fault])
    };
    let flow = |log: &fenlo_formats::controller::Log, i: usize| log.steps[i].flow_lpm.unwrap();
    let stuck = with(FaultKind::StuckOpen, "v3");
    assert!(flow(&stuck, 3) > 1.0, "it runs while nothing should");
    assert!((flow(&stuck, 2) - flow(&sound, 2)).abs() < 1e-6, "and as ever in its own time");
    assert!(stuck.steps[3].open.is_empty(), "the controller does not know");
    let broken = with(FaultKind::BrokenLateral, "v1");
    assert!(flow(&broken, 0) > flow(&sound, 0) * 1.3);
    assert!(broken.steps[0].pressure_kpa < sound.steps[0].pressure_kpa);
    let clogged = with(FaultKind::CloggedFilter, "v1");
    assert!(flow(&clogged, 0) < flow(&sound, 0) * 0.95);
    assert_eq!(flow(&clogged, 4), flow(&sound, 4), "others as ever");
}
