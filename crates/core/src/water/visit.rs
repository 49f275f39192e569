//! Which static reading a running one belongs to. A town's pressure differs by the hour: what water
//! running costs is the drop from the static of the same visit, and only that drop may be carried
//! over to another hour.

use crate::plan::{Reading, ReadingKind, Supply, WaterSource};
use crate::units::{Flow, Minutes, Pressure, Volume};

/// A reading with water running, beside the static reading of its own visit.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct FlowTest {
    /// What ran.
    pub flow: Flow,
    /// What the gauge showed then.
    pub pressure: Pressure,
    /// What it showed in the same visit with nothing running.
    pub static_pressure: Pressure,
}

impl FlowTest {
    /// What the flow cost.
    pub fn drop(&self) -> Pressure {
        self.static_pressure - self.pressure
    }
}

/// Every running reading with the static of its visit, as the gauge showed them: the static nearest in
/// time, of those at the same place where there is one; where no times are given, the one that stands
/// nearest in the list, an earlier one first. Empty without a static reading.
///
/// A bucket at a tap wide open is such a reading too, at no pressure: all of it is spent in the house's pipe and in the
/// tap. At any other connection a bucket says what one bib gives, and nothing of the connection.
pub fn flow_tests(supply: &Supply) -> Vec<FlowTest> {
    let readings = supply.readings.iter().enumerate();
    let statics: Vec<(usize, &Reading, Pressure)> = readings
        .clone()
        .filter_map(|(i, r)| match r.kind {
            ReadingKind::Static { pressure } => Some((i, r, pressure)),
            _ => None,
        })
        .collect();
    let tap = supply.water == WaterSource::Tap;
    let test = |(i, r): (usize, &Reading)| {
        let (flow, pressure) = match r.kind {
            ReadingKind::Dynamic { flow, pressure } => (flow, pressure),
            ReadingKind::Bucket { volume, time } if tap => (filled(volume, time), Pressure::ZERO),
            _ => return None,
        };
        let same_place = statics.iter().any(|s| is_at(&r.tap, &s.1.tap));
        let near = statics.iter().filter(|s| !same_place || is_at(&r.tap, &s.1.tap));
        let own = near.min_by_key(|(j, s, _)| {
            let apart = minute(&r.when).zip(minute(&s.when)).map(|(a, b)| a.abs_diff(b));
            (apart.is_none(), apart, j.abs_diff(i), *j > i)
        })?;
        Some(FlowTest { flow, pressure, static_pressure: own.2 })
    };
    readings.filter_map(test).collect()
}

/// What filled a bucket.
pub(super) fn filled(volume: Volume, time: Minutes) -> Flow {
    Flow::from_lpm(volume.litres() / time.minutes())
}

/// The same tap, as people write it: ‘front bib’ and ‘front bib, second bib open’.
fn is_at(a: &str, b: &str) -> bool {
    let name = |t: &str| t.split([',', ';', '(']).next().unwrap_or("").trim().to_lowercase();
    let (a, b) = (name(a), name(b));
    !a.is_empty() && a == b
}

/// Minutes on a line of time, by `YYYY-MM-DD` with or without `HH:MM`; months count as 31 days, which
/// keeps the order and is near enough to tell visits apart.
fn minute(when: &str) -> Option<i64> {
    let (date, hour) = when.trim().split_once([' ', 'T']).unwrap_or((when.trim(), ""));
    let mut parts = date.split('-').map(str::parse::<i64>);
    let (year, month, day) = (parts.next()?.ok()?, parts.next()?.ok()?, parts.next()?.ok()?);
    let (hours, minutes) = hour.split_once(':').unwrap_or(("12", "0"));
    let hours: i64 = hours.trim().parse().unwrap_or(12);
    let minutes: i64 = minutes.trim().parse().unwrap_or(0);
    Some((((year * 12 + month) * 31 + day) * 24 + hours) * 60 + minutes)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn reading(kind: ReadingKind, when: &str, tap: &str) -> Reading {
        Reading { kind, when: when.into(), instrument: String::new(), tap: tap.into() }
    }
    fn at_rest(psi: f64, when: &str, tap: &str) -> Reading {
        let pressure = Pressure::from_psi(psi);
        reading(ReadingKind::Static { pressure }, when, tap)
    }
    fn running(gpm: f64, psi: f64, when: &str, tap: &str) -> Reading {
        let (flow, pressure) = (Flow::from_gpm(gpm), Pressure::from_psi(psi));
        reading(ReadingKind::Dynamic { flow, pressure }, when, tap)
    }
    /// The static of each running reading, psi.
    fn owns(readings: Vec<Reading>) -> Vec<f64> {
        let supply = Supply { readings, ..Supply::new("s1", "Meter") };
        flow_tests(&supply).iter().map(|t| t.static_pressure.psi().round()).collect()
    }

    #[test]
    fn the_static_nearest_in_time_is_its_own() {
        let all = vec![
            at_rest(55.0, "2026-07-01 06:30", ""),
            at_rest(68.0, "2026-07-02 14:00", ""),
            running(15.0, 53.0, "2026-07-02 14:10", ""),
            running(8.0, 51.0, "2026-07-01 06:45", ""),
        ];
        assert_eq!(owns(all), [68.0, 55.0]);
    }

    #[test]
    fn the_same_tap_comes_before_the_same_hour() {
        let all = vec![
            at_rest(60.0, "2026-07-02 14:09", "back bib"),
            at_rest(66.0, "2026-07-02 13:00", "front bib"),
            running(10.0, 52.0, "2026-07-02 14:10", "Front bib, second bib open"),
        ];
        assert_eq!(owns(all), [66.0]);
    }

    #[test]
    fn without_times_the_one_before_it_in_the_list_is_its_own() {
        let all = vec![
            at_rest(55.0, "", ""),
            at_rest(68.0, "morning", ""),
            running(15.0, 53.0, "", ""),
            at_rest(70.0, "", ""),
        ];
        assert_eq!(owns(all), [68.0]);
        assert_eq!(owns(vec![running(15.0, 53.0, "", "")]), [] as [f64; 0]);
    }

    #[test]
    fn a_date_alone_is_noon_and_nonsense_is_no_time() {
        assert_eq!(minute("2026-07-02"), minute("2026-07-02 12:00"));
        assert!(minute("2026-07-02 23:59") < minute("2026-07-03 00:01"));
        assert!(minute("2026-12-31") < minute("2027-01-01"));
        for nonsense in ["", "today", "7/2/2026", "2026-07"] {
            assert_eq!(minute(nonsense), None, "{nonsense}");
        }
    }
}
