//! Which stations may run together, by the pressure that is left at every head.

use super::aim::wanted;
use super::response::{Response, SURE, balance};
use super::task::MayRun;
use crate::job::Job;
use crate::units::Pressure;
use crate::water::Aim;
use crate::zone::{ZoneInputs, run_inputs_together};
use std::collections::HashMap;
use std::sync::Arc;

/// A station to the solver.
pub(super) struct Station {
    /// What its zone rests on.
    /// None for a station that comes later.
    pub inputs: Option<Arc<ZoneInputs>>,
    /// Its connection.
    pub supply: usize,
    /// The best aim that all its heads meet when it runs alone; none: one is under the bottom of its band.
    pub aim: Option<Aim>,
    /// What it does at lower pressures; none where others share a drawn main with it, whose losses grow with
    /// their water.
    pub response: Option<Response>,
}

/// Sets that were solved, with what the worst head has over its aim; none: not allowed.
pub(super) struct SolvedSets<'a> {
    job: &'a Job,
    stations: &'a [Station],
    known: HashMap<Vec<u16>, Option<Pressure>>,
    allowed: HashMap<Vec<u16>, bool>,
}

impl<'a> SolvedSets<'a> {
    pub fn new(job: &'a Job, stations: &'a [Station]) -> Self {
        Self { job, stations, known: HashMap::new(), allowed: HashMap::new() }
    }

    /// The margin of stations on one connection as their own tables have it: to about [`SURE`], and none
    /// where nothing can be said without solving.
    fn guess(&self, set: &[u16]) -> Option<Pressure> {
        let stations: Vec<&Station> = set.iter().map(|i| &self.stations[usize::from(*i)]).collect();
        let tables: Vec<&Response> = stations.iter().map(|s| s.response.as_ref()).collect::<Option<_>>()?;
        balance(&stations.first()?.inputs.as_ref()?.point, &tables)
    }

    /// What the worst head of stations that run together has over its aim; none where one is under it, or
    /// where they can't be solved. Stations on other connections do not matter to one another.
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
        let pairs =
            set.len() > 2 && (0..set.len()).any(|i| (0..i).any(|j| self.margin(&[set[j], set[i]]).is_none()));
        let found = if pairs { None } else { self.solve(set) };
        self.known.insert(set.to_vec(), found);
        found
    }

    fn solve(&self, set: &[u16]) -> Option<Pressure> {
        let stations: Vec<&Station> = set.iter().map(|i| &self.stations[usize::from(*i)]).collect();
        // What comes later has no pressure to lose yet: its flow is kept back, and that is counted.
        let stations: Vec<&Station> = stations.into_iter().filter(|s| s.inputs.is_some()).collect();
        let inputs: Vec<&ZoneInputs> = stations.iter().filter_map(|s| s.inputs.as_deref()).collect();
        if inputs.is_empty() {
            return Some(Pressure::from_kpa(f64::MAX));
        }
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
        if set.len() < 2 {
            return true;
        }
        if let Some(known) = self.allowed.get(set) {
            return *known;
        }
        let supply = |i: &u16| self.stations[usize::from(*i)].supply;
        let mut supplies: Vec<usize> = set.iter().map(supply).collect();
        supplies.dedup();
        let one = supplies.iter().all(|s| *s == supplies[0]);
        let allowed = match self.guess(set).filter(|_| one) {
            Some(margin) if margin > SURE => true,
            Some(margin) if margin < -SURE => false,
            _ => self.margin(set).is_some(),
        };
        self.allowed.insert(set.to_vec(), allowed);
        allowed
    }
}
