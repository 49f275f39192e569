//! Which stations may run together, by the pressure that is left at every head.

use super::pack::MayRun;
use crate::assess::Assessment;
use crate::catalogue::PressureBand;
use crate::job::Job;
use crate::units::Pressure;
use crate::water::Aim;
use crate::zone::{HeadResult, ZoneInputs, run_inputs_together};
use std::collections::HashMap;
use std::sync::Arc;

/// A station to the solver.
pub(super) struct Station {
    /// What its zone rests on.
    pub inputs: Arc<ZoneInputs>,
    /// Its connection.
    pub supply: usize,
    /// How well its heads work when it runs alone; none: one of them is under the bottom of its band.
    pub aim: Option<Aim>,
}

/// Sets that were solved, with what the worst head has over its aim; none: not allowed.
pub(super) struct SolvedSets<'a> {
    job: &'a Job,
    stations: &'a [Station],
    known: HashMap<Vec<u16>, Option<Pressure>>,
}

impl<'a> SolvedSets<'a> {
    pub fn new(job: &'a Job, stations: &'a [Station]) -> Self {
        Self {
            job,
            stations,
            known: HashMap::new(),
        }
    }

    /// What the worst head of stations that run together has over its aim; none where one is under it, or where
    /// they can't be solved. Stations on other connections do not matter to one another.
    pub fn margin(&mut self, set: &[u16]) -> Option<Pressure> {
        let mut supplies: Vec<usize> = set.iter().map(|i| self.stations[usize::from(*i)].supply).collect();
        supplies.sort_unstable();
        supplies.dedup();
        if supplies.len() > 1 {
            let mut least: Option<Pressure> = None;
            for supply in supplies {
                let of = |i: &&u16| self.stations[usize::from(**i)].supply == supply;
                let part: Vec<u16> = set.iter().filter(of).copied().collect();
                let margin = self.margin(&part)?;
                least = Some(least.map_or(margin, |l| l.min(margin)));
            }
            return least;
        }
        if let Some(known) = self.known.get(set) {
            return *known;
        }
        // What no two of them may do they may not do together: cheaper asked than solved.
        let pairs = set.len() > 2
            && (0..set.len()).any(|i| (0..i).any(|j| self.margin(&[set[j], set[i]]).is_none()));
        let found = if pairs { None } else { self.solve(set) };
        self.known.insert(set.to_vec(), found);
        found
    }

    fn solve(&self, set: &[u16]) -> Option<Pressure> {
        let stations: Vec<&Station> = set.iter().map(|i| &self.stations[usize::from(*i)]).collect();
        let inputs: Vec<&ZoneInputs> = stations.iter().map(|s| s.inputs.as_ref()).collect();
        let together = run_inputs_together(self.job, &inputs).ok()?;
        let mut least = Pressure::from_kpa(f64::MAX);
        for (station, zone) in stations.iter().zip(&together.zones) {
            let aim = match station.aim {
                Some(aim) => aim,
                // It has less than it needs even alone: nothing may take from it.
                None if set.len() > 1 => return None,
                None => Aim::AtLimit,
            };
            for head in &zone.heads {
                least = least.min(head.nozzle - wanted(aim, head));
            }
        }
        (set.len() == 1 || least >= Pressure::ZERO).then_some(least)
    }
}

impl MayRun for SolvedSets<'_> {
    fn may(&mut self, set: &[u16]) -> bool {
        set.len() < 2 || self.margin(set).is_some()
    }
}

fn wanted(aim: Aim, head: &HeadResult) -> Pressure {
    let band: PressureBand = head.band;
    aim.wanted(band, head.exponent == 0.0)
}

/// The best aim that all heads of a valve meet when it runs alone.
pub(super) fn aim_alone(known: &Assessment, valve: &str) -> Option<Aim> {
    let zone = known.zone(valve)?.zone.as_ref().ok()?;
    Aim::ALL
        .into_iter()
        .find(|aim| zone.heads.iter().all(|h| h.nozzle >= wanted(*aim, h)))
}
