//! Whole nights of the demo sites under rules drawn at random: what must hold whatever somebody types.

#![allow(clippy::unwrap_used, reason = "a test that can't go on fails")]

use fenlo_core::assess::{Assessment, assess};
use fenlo_core::catalogue::PressureBand;
use fenlo_core::climate::stations;
use fenlo_core::job::Job;
use fenlo_core::plan::Plan;
use fenlo_core::runtime::{Evennesses, StationSays, Times, times};
use fenlo_core::zone::{HeadResult, run_together};
use proptest::prelude::*;
use std::sync::LazyLock;

struct Known {
    job: Job,
    known: Assessment,
    even: Evennesses,
}

static SITES: LazyLock<Vec<Known>> = LazyLock::new(|| {
    ["corner-plot", "bowls-green"]
        .map(|name| {
            let path = format!("{}/../web/demo/{name}.json", env!("CARGO_MANIFEST_DIR"));
            let mut plan: Plan = serde_json::from_str(&std::fs::read_to_string(path).unwrap()).unwrap();
            plan.watering.climate = Some(stations()[0].climate());
            plan.watering.stations.clear();
            let job = Job::new(plan);
            let known = assess(&job);
            let even = Evennesses::of(&job, &known);
            Known { job, known, even }
        })
        .into()
});

/// The night of a site with other hours, another month and so many valves at once.
fn night(site: &Known, month: u8, opens: u16, hours: u16, at_once: u32) -> (Job, Times) {
    let mut plan = site.job.plan().clone();
    let clock = |minutes: u16| format!("{:02}:{:02}", minutes / 60 % 24, minutes % 60).parse().unwrap();
    plan.watering.rules.opens = clock(opens);
    plan.watering.rules.closes = clock(opens + hours * 60);
    plan.watering.controller.at_once = at_once;
    let job = Job::new(plan);
    let found = times(&job, &site.known, &site.even, month, 2026);
    (job, found)
}

/// What a head must keep at each of the three aims: nominal less a tenth, the bottom of its band and 3 psi,
/// the bottom; a compensating emitter the bottom at once.
fn aims(band: PressureBand, compensating: bool) -> [f64; 3] {
    let (best, least) = (band.best.psi(), band.least.psi());
    if compensating {
        return [least; 3];
    }
    [0.9 * best, least + 3.0, least]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn every_minute_of_need_is_given_or_said_to_be_missing(
        site in 0usize..2, month in 1u8..=12, opens in 0u16..24, hours in 1u16..12, at_once in 1u32..5
    ) {
        let site = &SITES[site];
        let (_, found) = night(site, month, opens * 60, hours, at_once);
        for s in &found.stations {
            let (wanted, given) = (s.minutes_week.minutes(), s.given_week().minutes());
            // Whole minutes of each cycle, on whole days: half a minute a run at most.
            let runs = s.days.as_ref().map_or(0.0, |d| d.a_week() * f64::from(s.cycles.count));
            let short = wanted - given - 0.5 * runs - 1e-6;
            let told = s.says.iter().any(|says| matches!(
                says,
                StationSays::Missing(_) | StationSays::NoDay | StationSays::RunsOff { .. }
                    | StationSays::Unsolved(_) | StationSays::NothingComes(_) | StationSays::RainGivesAll
            ));
            prop_assert!(short <= 0.0 || told, "{} wants {wanted}, gets {given}: {:?}", s.name, s.says);
            // What a day gives is in the night, run by run.
            let place = found.stations.iter().position(|o| o.number == s.number && o.valve == s.valve).unwrap();
            let ran: u32 = found.night.runs.iter().filter(|r| r.station == place).map(|r| r.minutes).sum();
            if s.runs() {
                prop_assert_eq!(ran, s.cycles.count * s.cycles.minutes, "{}", s.name);
            }
        }
        // A night that does not fit says what would make it, or nothing could.
        let length = found.night.window.length;
        if found.night.finish > length {
            prop_assert!(!found.night.ways.is_empty() || found.night.bound.minutes > length);
        }
        prop_assert!(found.night.finish >= found.night.bound.minutes);
    }

    #[test]
    fn no_head_is_under_its_aim_in_any_minute_for_others_that_run_with_it(
        site in 0usize..2, month in 4u8..=9, hours in 2u16..9, at_once in 2u32..5
    ) {
        let site = &SITES[site];
        let (job, found) = night(site, month, 22 * 60, hours, at_once);
        prop_assume!(found.night.broken.is_empty());
        let mut seen: Vec<Vec<usize>> = Vec::new();
        for minute in 0..found.night.all_done {
            let on = found.night.runs.iter().filter(|r| (r.start..r.end()).contains(&minute));
            let mut set: Vec<usize> = on.map(|r| r.station).collect();
            set.sort_unstable();
            if set.len() < 2 || seen.contains(&set) {
                continue;
            }
            let valves: Vec<&str> = set
                .iter()
                .filter(|s| !found.stations[**s].later)
                .map(|s| found.stations[*s].valve.as_str())
                .collect();
            seen.push(set);
            for supply in &job.supplies {
                let here: Vec<&str> = valves
                    .iter()
                    .copied()
                    .filter(|v| job.valve(v).is_some_and(|v| v.supply == supply.id))
                    .collect();
                if here.len() < 2 {
                    continue;
                }
                let both = run_together(&job, &here).unwrap();
                for zone in &both.zones {
                    let alone = site.known.zone(&zone.valve).unwrap().zone.as_ref().unwrap();
                    // The aim of a zone is the best that all its heads meet by themselves.
                    let of = |h: &HeadResult| aims(h.band, h.exponent == 0.0);
                    let met = |i: &usize| alone.heads.iter().all(|h| h.nozzle.psi() >= of(h)[*i] - 1e-6);
                    let aim = (0..3).find(met);
                    prop_assert!(aim.is_some(), "{} starves alone and runs with {here:?}", zone.valve);
                    for head in &zone.heads {
                        let wanted = of(head)[aim.unwrap()];
                        prop_assert!(
                            head.nozzle.psi() >= wanted - 0.15,
                            "{:?} with {here:?}: {} of {wanted}", zone.valve, head.nozzle.psi()
                        );
                    }
                }
            }
        }
    }
}
