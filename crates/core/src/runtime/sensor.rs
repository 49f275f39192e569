//! What a sensor behind the meter would read.

use crate::assess::Assessment;
use crate::job::Job;
use crate::units::{Flow, Pressure};
use crate::zone::{ZoneInputs, run_inputs_together};

/// Flow and pressure with some valves open, solved: the flow of all connections together, the pressure at
/// the end of the first one's shared chain. `as_is` may change what a zone rests on, for stand-ins of a
/// field in which something is broken. None where a valve's zone is not known or nothing balances.
pub fn sensed(
    job: &Job,
    known: &Assessment,
    open: &[&str],
    as_is: impl Fn(&ZoneInputs) -> ZoneInputs,
) -> Option<(Flow, Pressure)> {
    let (mut flow, mut pressure) = (Flow::ZERO, None);
    for supply in &job.supplies {
        let on = open.iter().filter(|v| job.valve(v).is_some_and(|valve| valve.supply == supply.id));
        let inputs: Vec<ZoneInputs> =
            on.map(|v| known.zone(v)?.inputs.as_deref().map(&as_is)).collect::<Option<_>>()?;
        if inputs.is_empty() {
            continue;
        }
        let together = run_inputs_together(job, &inputs.iter().collect::<Vec<_>>()).ok()?;
        flow = flow + together.flow;
        pressure.get_or_insert(together.at_connection);
    }
    let standing = || {
        let point = known.supplies.first()?.point.as_ref().ok()?;
        Some(point.at_connection(Flow::ZERO))
    };
    Some((flow, pressure.or_else(standing)?))
}

/// One stretch of a night as it was to be and as it was read.
#[derive(Debug, Clone, PartialEq)]
pub struct Reading {
    /// Valves that the controller held open.
    pub open: Vec<String>,
    /// By the plan.
    pub predicted: Flow,
    /// By the sensor.
    pub read: Flow,
}

/// What a night's readings point to.
#[derive(Debug, Clone, PartialEq)]
pub enum Suspect {
    /// Water runs though nothing is open: a valve that does not close, most likely this one, or a leak in
    /// the main.
    StaysOpen(Option<String>),
    /// More than planned whenever this one runs: a broken pipe, a missing nozzle.
    TooMuch(String),
    /// Less than planned whenever this one runs: a clogged filter, a valve half open.
    TooLittle(String),
}

/// From when on a reading is off, as a share; and while nothing runs.
const OFF: f64 = 0.06;
/// Flow that a sensor sees for certain, L/min.
const SEEN: f64 = 0.5;

/// Finds what readings point to. A station is suspect where all its stretches are off to one side and one
/// that it shares with nobody suspect is too; while nothing runs any flow is.
pub fn suspects(readings: &[Reading], alone: &[(String, Flow)]) -> Vec<Suspect> {
    let idle: Vec<Flow> = readings.iter().filter(|r| r.open.is_empty()).map(|r| r.read).collect();
    let most_idle = idle.iter().copied().reduce(Flow::max).unwrap_or_default();
    if most_idle.lpm() > SEEN {
        let off = |flow: &Flow| (flow.lpm() - most_idle.lpm()).abs() / most_idle.lpm();
        let nearest = alone.iter().min_by(|a, b| off(&a.1).total_cmp(&off(&b.1)));
        let valve = nearest.filter(|n| off(&n.1) < 0.1).map(|n| n.0.clone());
        return vec![Suspect::StaysOpen(valve)];
    }
    let share = |r: &Reading| (r.read.lpm() - r.predicted.lpm()) / r.predicted.lpm().max(SEEN);
    let mut found = Vec::new();
    // Those with stretches of their own first: what they explain is not laid to others.
    let mut order: Vec<&String> = alone.iter().map(|a| &a.0).collect();
    let own = |valve: &String| readings.iter().filter(|r| r.open == [valve.clone()]).count();
    order.sort_by_key(|v| std::cmp::Reverse(own(v)));
    let mut explained: Vec<String> = Vec::new();
    for valve in order {
        let with: Vec<&Reading> = readings.iter().filter(|r| r.open.contains(valve)).collect();
        if with.is_empty() || with.iter().any(|r| r.open.iter().any(|v| explained.contains(v))) {
            continue;
        }
        if with.iter().all(|r| share(r) > OFF) {
            found.push(Suspect::TooMuch(valve.clone()));
            explained.push(valve.clone());
        } else if with.iter().all(|r| share(r) < -OFF) {
            found.push(Suspect::TooLittle(valve.clone()));
            explained.push(valve.clone());
        }
    }
    found
}
