//! Water from a store: what it lasts for, what rain brings, what its pump draws.

use super::{Check, Finding, Severity};
use crate::job::Job;
use crate::plan::need_per_week;
use crate::plan::{Store, Supply};
use crate::units::{Flow, Length, Minutes, Volume};

/// Of the rain on a roof so much reaches the tank.
const CAUGHT: f64 = 0.85;
/// A battery is not emptied: of what is drawn so much more is bought.
const BATTERY_SPARE: f64 = 1.5;
/// Volts of the batteries that small pumps run on.
const VOLTS: f64 = 12.0;

/// A store against what hangs on it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct StoreNeed {
    /// What its areas take in a peak week.
    pub week: Volume,
    /// How many days of that week it lasts without rain.
    pub days: f64,
    /// What an inch (25.4 mm) of rain on its roof brings.
    pub inch_of_rain: Option<Volume>,
    /// Rain that fills it from empty.
    pub rain_to_fill: Option<Length>,
    /// How long its pump runs in that week.
    pub running: Minutes,
    /// Battery for that week at 12 V, ampere-hours, with a half more.
    pub battery_ah: Option<f64>,
}

/// What a roof brings: 0.85 of the rain that falls on it (0.623 gal for each ft2 and inch).
pub fn roof_catch(store: &Store, rain: Length) -> Option<Volume> {
    let litres = |m2: f64| m2 * rain.mm() * CAUGHT;
    store.roof.map(|roof| Volume::from_litres(litres(roof.m2())))
}

/// What a store lasts for. `flow` is what its valves take on the mean. None without a store.
pub fn store_need(job: &Job, supply: &Supply, flow: Flow) -> Option<StoreNeed> {
    let store = supply.store?;
    let fed = |area: &str| {
        let on = |v: &str| job.valve(v).is_some_and(|v| v.supply == supply.id);
        let here = job.groups.iter().filter(|g| g.area.as_deref() == Some(area));
        let mut heads = here.flat_map(|g| g.heads().filter_map(|h| h.2).collect::<Vec<_>>());
        heads.any(on)
    };
    let litres = job.site.areas().filter(|(o, _)| fed(&o.id));
    let litres: f64 = litres.map(|(_, a)| need_per_week(job, a).depth.mm() * a.shape.area_m2()).sum();
    let week = Volume::from_litres(litres);
    let inch_of_rain = roof_catch(&store, Length::from_in(1.0));
    let running = Minutes::from_minutes(if flow > Flow::ZERO { litres / flow.lpm() } else { 0.0 });
    Some(StoreNeed {
        week,
        days: if litres > 0.0 { 7.0 * store.volume.litres() / litres } else { f64::INFINITY },
        inch_of_rain,
        rain_to_fill: inch_of_rain
            .filter(|v| v.litres() > 0.0)
            .map(|v| Length::from_in(store.volume.litres() / v.litres())),
        running,
        battery_ah: (store.battery_watts)
            .map(|watts| watts * running.minutes() / 60.0 / VOLTS * BATTERY_SPARE),
    })
}

/// A store that is empty before the next day.
pub(super) fn store_small(job: &Job, supply: &Supply) -> Option<Finding> {
    let need = store_need(job, supply, Flow::ZERO)?;
    (need.days < 1.0).then(|| {
        let check = Check::StoreSmall {
            holds: supply.store.map_or(Volume::ZERO, |s| s.volume),
            day: Volume::from_litres(need.week.litres() / 7.0),
        };
        Finding::new(Severity::Watch, check)
    })
}
