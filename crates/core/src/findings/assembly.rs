//! What is wrong with the parts of a zone, where somebody put them together.

use super::checker::Checker;
use super::{Check, Finding, Severity};
use crate::assembly::{Around, AssemblyFault, Train, faults};
use crate::plan::PartIs;

impl Checker<'_> {
    pub(super) fn assembly(&self) -> Vec<Finding> {
        if !Train::is_listed(&self.valve.assembly) {
            return Vec::new();
        }
        let train = Train::of(self.job.catalogue(), self.valve);
        let around = Around {
            at_rest: self.zone.standing.before,
            flow: self.zone.flow,
            top: Some(self.zone.top_over_valve),
            room: self.job.rules.regulator_room,
        };
        let found = faults(&train, &self.valve.assembly, &around);
        let told = |f: &crate::assembly::Fault| {
            // The zone's own valve and regulator are checked with water running.
            let own = !matches!(train.members[f.at].is, PartIs::Part(_));
            let solved =
                matches!(f.fault, AssemblyFault::OutsideBand { .. } | AssemblyFault::NoPressureRoom { .. });
            !(own && solved)
        };
        let finding = |f: crate::assembly::Fault| {
            let part = train.members[f.at].label.clone();
            Finding::new(severity(&f.fault), Check::Assembly { part, fault: f.fault })
        };
        found.into_iter().filter(told).map(finding).collect()
    }
}

/// What lets water back to where people drink, or bursts, stops; what only won't work well is to be mended.
pub(super) fn severity(fault: &AssemblyFault) -> Severity {
    match fault {
        AssemblyFault::ValveAfterBreaker
        | AssemblyFault::NoBreaker
        | AssemblyFault::BreakerLow { .. }
        | AssemblyFault::OverRating { .. } => Severity::Stop,
        AssemblyFault::TooLong { .. } | AssemblyFault::NoRoomToOpen { .. } | AssemblyFault::NotFirst => {
            Severity::Watch
        }
        _ => Severity::Fix,
    }
}
