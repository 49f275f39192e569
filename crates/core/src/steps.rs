//! The steps of a job and how far each is.

use crate::assess::Assessment;
use crate::findings::{Check, Severity};
use crate::job::Job;
use crate::plan::Plan;
use crate::verdict::{Entry, Verdict};

/// A step of the work that has figures of its own, in the order of the work.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Step {
    /// What the connections give.
    Water,
    /// The site to scale.
    Ground,
    /// Which heads stand where.
    Heads,
    /// Which heads run together.
    Valves,
    /// What is left at the last head, and what regulates it.
    Pressure,
    /// How long, how often, when.
    Times,
    /// What is bought and what it costs.
    Parts,
}

/// How far a step is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum StepState {
    /// Something in it must be mended before anything is dug.
    Stops,
    /// Nothing is left to do in it.
    Done,
    /// Something is left to do.
    Open,
}

impl Step {
    /// All of them.
    pub const ALL: [Self; 7] =
        [Self::Water, Self::Ground, Self::Heads, Self::Valves, Self::Pressure, Self::Times, Self::Parts];

    /// The step in which a finding is mended.
    pub fn of(check: &Check) -> Self {
        match check {
            Check::WaterUnknown { .. }
            | Check::StaticHigh { .. }
            | Check::ReadingsScatter { .. }
            | Check::ReadingsStretched { .. }
            | Check::StaticOnly { .. }
            | Check::NoBackflow {}
            | Check::InjectionUnprotected { .. }
            | Check::StoreSmall { .. }
            | Check::NoFlow { .. }
            | Check::DeviceTooSmall { .. }
            | Check::SystemRange { .. }
            | Check::SystemNoRoom { .. }
            | Check::BackflowPlace { .. } => Self::Water,
            Check::PipeUnder { .. }
            | Check::PipeThroughRoots { .. }
            | Check::UnsleevedCrossing { .. }
            | Check::AboveFrost { .. }
            | Check::OffMain {}
            | Check::HeadOffLateral { .. }
            | Check::LateralLong { .. }
            | Check::BoxMisplaced { .. }
            | Check::BoxFull { .. } => Self::Ground,
            Check::ArcsUnmatched { .. }
            | Check::ArcNotMade { .. }
            | Check::AreaNotCovered { .. }
            | Check::NotHeadToHead { .. }
            | Check::ThrowOverDry { .. }
            | Check::BeyondAdjustment { .. }
            | Check::MixedRates { .. }
            | Check::AtTheEdge { .. }
            | Check::UnwateredPart { .. }
            | Check::Uneven { .. }
            | Check::AreaEmpty { .. }
            | Check::DripSpacing { .. }
            | Check::DripDownhill { .. }
            | Check::RingUneven { .. }
            | Check::MicroTubeLong { .. } => Self::Heads,
            Check::FlowOverDesign { .. }
            | Check::ValveMinFlow { .. }
            | Check::MixedNever { .. }
            | Check::Mixed { .. }
            | Check::HeightOnValve { .. }
            | Check::PumpCycles { .. }
            | Check::TooFewStations { .. }
            | Check::HeadsWithoutValve { .. }
            | Check::ValveWithoutHeads {} => Self::Valves,
            Check::HeadStarved { .. }
            | Check::PressureHigh { .. }
            | Check::Spread { .. }
            | Check::Velocity { .. }
            | Check::ServiceVelocity { .. }
            | Check::NoRoom { .. }
            | Check::RegulatorFlow { .. }
            | Check::DripNoFilter { .. }
            | Check::DripNoRegulator { .. }
            | Check::DripOverRating { .. }
            | Check::DripNearRating { .. }
            | Check::DripFlushSlow { .. }
            | Check::Assembly { .. }
            | Check::DirtyFilter { .. }
            | Check::BelowAim { .. }
            | Check::BoosterNeeded { .. }
            | Check::WrongPressure { .. }
            | Check::ZoneUnsolved { .. } => Self::Pressure,
            Check::NightTooLong { .. } | Check::NightBroken { .. } | Check::NoClimate {} => Self::Times,
            Check::JointUnmade { .. }
            | Check::ValveWithoutMain {}
            | Check::ValveWithoutLateral {}
            | Check::WireNotCounted { .. } => Self::Parts,
        }
    }

    /// How far this step is: a tick says that nothing is left to mend or to plan in it, nor in what it rests
    /// on.
    pub fn state(self, job: &Job, verdict: &Verdict) -> StepState {
        let here = || verdict.entries().iter().filter(|e| Self::of(&e.finding.check) == self);
        if here().any(|e| e.finding.severity == Severity::Stop) {
            return StepState::Stops;
        }
        // A flow that nobody read is a default to go on with, not the end of the step.
        let assumed = |e: &Entry| matches!(e.finding.check, Check::StaticOnly { .. });
        let to_do =
            here().any(|e| matches!(e.finding.severity, Severity::Fix | Severity::Open) || assumed(e));
        // A bed without heads is on no valve, in no night and on no list either.
        let rests_on = |e: &&Entry| {
            let step = Self::of(&e.finding.check);
            e.finding.severity == Severity::Open && matches!(step, Self::Heads | Self::Valves)
        };
        let unplanned = self > Self::Heads && verdict.entries().iter().any(|e| rests_on(&e));
        if to_do || unplanned || !self.begun(job) { StepState::Open } else { StepState::Done }
    }

    /// Something was done in it, or before it, that can be judged.
    fn begun(self, job: &Job) -> bool {
        match self {
            Self::Water => true,
            Self::Ground => job.site.areas().next().is_some(),
            Self::Heads => !job.groups.is_empty(),
            Self::Valves | Self::Pressure | Self::Times | Self::Parts => !job.valves.is_empty(),
        }
    }

    /// Where to go on in a job: its water, else its heads, else its valves.
    pub fn next(plan: &Plan, known: &Assessment) -> Self {
        if known.supplies.iter().any(|s| s.design.flow.is_none()) {
            Self::Water
        } else if plan.groups.is_empty() {
            Self::Heads
        } else {
            Self::Valves
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::assess::assess;
    use crate::plan::{Edit, Reading, ReadingKind};
    use crate::units::{Minutes, UnitSystem, Volume};
    use crate::usual;
    use crate::verdict::KeptAreas;

    fn states(job: &Job) -> [StepState; 7] {
        let verdict = Verdict::of(job, &assess(job), 2026, &KeptAreas::default());
        Step::ALL.map(|step| step.state(job, &verdict))
    }

    #[test]
    fn a_new_job_is_open_everywhere_and_begins_with_its_water() {
        let job = Job::new(Plan::new("New", UnitSystem::Us));
        assert_eq!(states(&job), [StepState::Open; 7]);
        assert_eq!(Step::next(&job, &assess(&job)), Step::Water);
    }

    #[test]
    fn heads_on_no_valve_leave_valves_open_and_heads_done() {
        let mut job = Job::new(Plan::new("Loose", UnitSystem::Us));
        let group = usual::group(&job, "Lawn", "spray-12", 180, 4);
        job = job.apply(&Edit::put(group)).expect("a sound group").0;
        let [_, _, heads, valves, pressure, _, _] = states(&job);
        assert_eq!((heads, valves, pressure), (StepState::Done, StepState::Open, StepState::Open));
    }

    #[test]
    fn water_that_stops_is_told_once_something_was_read() {
        let mut job = Job::new(Plan::new("No gauge", UnitSystem::Us));
        let mut supply = job.supplies[0].clone();
        // A bucket alone: without a static pressure nothing can be said of the water.
        supply.readings.push(Reading {
            kind: ReadingKind::Bucket { volume: Volume::from_litres(20.0), time: Minutes::from_minutes(0.5) },
            when: String::new(),
            instrument: String::new(),
            tap: String::new(),
        });
        job = job.apply(&Edit::put(supply)).expect("a sound reading").0;
        assert_eq!(states(&job)[0], StepState::Stops);
    }
}
