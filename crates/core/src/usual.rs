//! What is usual where nobody has said otherwise yet: to be changed in place.

use crate::assembly::at_tap;
use crate::catalogue::{ArcRule, Catalogue, Kind, PipeDuty, PipeId};
use crate::job::Job;
use crate::plan::{ArcCount, DripRow, HeadGroup, Valve, WaterSource};
use crate::site::Plants;
use crate::units::{Length, UnitSystem};

/// A listed group of heads: spacing as wide as the throw, pipe of the job's system of units, rows of
/// 20 emitters for dripline and tape. Patterns of one shape have that one arc, whatever was said.
pub fn group(job: &Job, name: &str, nozzle: &str, arc: u16, count: u32) -> HeadGroup {
    let catalogue = job.catalogue();
    let known = catalogue.nozzle(nozzle);
    let kind = known.map(|n| n.kind);
    let rows = kind.is_some_and(|k| matches!(k, Kind::Dripline | Kind::Tape));
    let drip = kind.is_some_and(Kind::is_drip);
    let metric = job.units.is_metric();
    let fixed = known.is_some_and(|n| n.arc_rule == ArcRule::Fixed);
    let tap = job.supplies.first().is_some_and(|s| s.water == WaterSource::Tap);
    let pipe = match (metric, drip || tap || kind == Some(Kind::Stake)) {
        (true, _) => PipeDuty::MetricLateral,
        (false, true) => PipeDuty::DripLateral,
        (false, false) => PipeDuty::DrawnLateral,
    };
    // Whole feet, or half metres.
    let round = |ft: f64| {
        if metric {
            Length::from_m((Length::from_ft(ft).m() * 2.0).round() / 2.0)
        } else {
            Length::from_ft(ft.round())
        }
    };
    let throw = known.and_then(|n| n.radius).map_or(3.0, Length::ft);
    HeadGroup {
        plants: if drip { Plants::Bed } else { Plants::Lawn },
        listed: vec![ArcCount { arc: if fixed { 360 } else { arc }, count, valve: None }],
        spacing: if rows { Length::from_in(18.0) } else { round(throw) },
        pipe: catalogue.pipe_of(pipe).id(),
        distance: round(20.0),
        row: rows.then(row),
        ..HeadGroup::new(&job.fresh_id('g'), name, nozzle)
    }
}

/// The pipe of laterals and mains that nobody chose.
pub fn lateral(units: UnitSystem) -> PipeId {
    let duty = if units.is_metric() { PipeDuty::MetricLateral } else { PipeDuty::DrawnLateral };
    Catalogue::builtin().pipe_of(duty).id()
}

/// A row of dripline or tape: 20 emitters, one every 12 in.
pub fn row() -> DripRow {
    DripRow { emitters: 20, emitter_spacing: Length::from_in(12.0) }
}

/// A new valve like another, or as most are; none where there is no point of connection.
pub fn valve(job: &Job, like: Option<&Valve>) -> Option<Valve> {
    let id = job.fresh_id('v');
    let first = job.supplies.first()?;
    let (supply, tap) = (first.id.clone(), first.water == WaterSource::Tap);
    let new = Valve::new(&id, &format!("Valve {}", job.valves.len() + 1), &supply);
    Some(match like {
        Some(like) => Valve { id: new.id, name: new.name, locked: false, ..like.clone() },
        None if tap => at_tap(new, false),
        None => new,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::plan::Plan;
    use crate::units::UnitSystem;

    #[test]
    fn a_usual_group_can_be_computed_with_in_either_system() {
        for units in UnitSystem::ALL {
            let job = Job::new(Plan::new("Test", units));
            for nozzle in &job.catalogue().nozzles {
                let group = group(&job, "Front", &nozzle.id, nozzle.arcs.1, 4);
                let (next, _) = job.apply(&crate::plan::Edit::put(group.clone())).unwrap();
                assert_eq!(next.groups[0].row.is_some(), matches!(nozzle.kind, Kind::Dripline | Kind::Tape));
                let step = if units == UnitSystem::Us { group.spacing.ft() } else { group.spacing.m() * 2.0 };
                assert!((step - step.round()).abs() < 1e-9 || group.row.is_some(), "{step}");
            }
        }
    }

    #[test]
    fn a_valve_like_another_is_not_locked_and_has_a_name_of_its_own() {
        let mut plan = Plan::new("Test", UnitSystem::Us);
        plan.valves.push(Valve { locked: true, model: "valve-2in".into(), ..Valve::new("v1", "Lawn", "s1") });
        let job = Job::new(plan);
        let new = valve(&job, job.valve("v1")).unwrap();
        assert_eq!((new.id.as_str(), new.model.as_str(), new.locked), ("v2", "valve-2in", false));
        let mut none = job.into_plan();
        none.supplies.clear();
        assert_eq!(valve(&Job::new(none), None), None);
    }
}
