//! What is to be said of a whole job: every finding of its connections, areas, valves, pipes, joints and night,
//! and what is not planned yet. Pages, lists, quotes and the command line count here and nowhere else.
//!
//! | file | idea |
//! |---|---|
//! | `areas` | the water on every area, kept where its heads and its ground are the same |
//! | `open` | what is not planned yet |

mod areas;
mod open;
#[cfg(test)]
mod tests;

use crate::assess::{AreaReport, Assessment};
use crate::findings::{Check, Finding, Severity};
use crate::job::Job;
use crate::remedies::{self, Diagnosis};
use crate::runtime::{Evennesses, Night, night_of_peak};
use crate::takeoff::{Takeoff, takeoff};
use areas::AreaVerdict;
pub use areas::KeptAreas;

/// What a finding is of.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Subject {
    /// A point of connection, by its id.
    Supply(String),
    /// A valve, by its id.
    Valve(String),
    /// An area, by its id.
    Area(String),
    /// The job as a whole.
    Job,
}

/// A finding with what it is of.
#[derive(Debug, Clone, PartialEq)]
pub struct Entry {
    /// What it is of.
    pub of: Subject,
    /// The finding.
    pub finding: Finding,
}

/// How many findings of each severity.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, serde::Serialize, serde::Deserialize)]
pub struct Total {
    /// It won't work, or may hurt.
    pub stop: usize,
    /// It works badly.
    pub fix: usize,
    /// Keep an eye on it.
    pub watch: usize,
    /// Not planned yet.
    pub open: usize,
}

impl Total {
    fn of<'a>(findings: impl Iterator<Item = &'a Finding>) -> Self {
        let mut total = Self::default();
        for finding in findings {
            match finding.severity {
                Severity::Stop => total.stop += 1,
                Severity::Fix => total.fix += 1,
                Severity::Watch => total.watch += 1,
                Severity::Open => total.open += 1,
            }
        }
        total
    }

    /// Whether there is nothing at all to be said.
    pub fn is_none(&self) -> bool {
        *self == Self::default()
    }
}

/// All that is to be said of a job.
#[derive(Debug, Clone)]
pub struct Verdict {
    entries: Vec<Entry>,
    areas: Vec<AreaVerdict>,
    taken: Takeoff,
}

/// Valves up to which the night is packed for a verdict; that of more takes seconds, and is packed when
/// somebody asks for it.
pub const NIGHT_AT_ONCE: usize = 60;

impl Verdict {
    /// Of a job as it was assessed; `year` is that of the calendar that the night goes by. Areas whose heads,
    /// pressures and ground are those of an earlier verdict keep their figures.
    pub fn of(job: &Job, known: &Assessment, year: i32, kept: &KeptAreas) -> Self {
        Self::over(job, known, year, areas::verdicts(job, known, kept))
    }

    /// The same where the areas are reported already.
    pub fn with_areas(job: &Job, known: &Assessment, year: i32, reports: &[AreaReport]) -> Self {
        Self::over(job, known, year, areas::of_reports(reports))
    }

    fn over(job: &Job, known: &Assessment, year: i32, areas: Vec<AreaVerdict>) -> Self {
        let taken = takeoff(job, known);
        let mut entries: Vec<Entry> = Vec::new();
        let mut put = |of: Subject, findings: &[Finding]| {
            entries.extend(findings.iter().map(|f| Entry { of: of.clone(), finding: f.clone() }));
        };
        for supply in &known.supplies {
            put(Subject::Supply(supply.id.clone()), &supply.findings);
        }
        for area in &areas {
            put(Subject::Area(area.area.clone()), &area.findings);
        }
        for zone in &known.zones {
            put(Subject::Valve(zone.valve.clone()), &zone.findings);
        }
        for (at, finding) in taken.findings(job) {
            let valve = job.valve(&at).is_some();
            put(if valve { Subject::Valve(at) } else { Subject::Supply(at) }, &[finding]);
        }
        if !job.valves.is_empty() && job.valves.len() <= NIGHT_AT_ONCE {
            let even = even(job, &areas);
            put(Subject::Job, &of_night(&night_of_peak(job, known, &even, year)));
        }
        entries.extend(open::entries(job, known, &taken));
        entries.sort_by_key(|e| e.finding.severity);
        Self { entries, areas, taken }
    }

    /// All findings, the worst first.
    pub fn entries(&self) -> &[Entry] {
        &self.entries
    }

    /// Findings of one thing, the worst first.
    pub fn at<'a>(&'a self, of: &'a Subject) -> impl Iterator<Item = &'a Finding> {
        self.entries.iter().filter(move |e| e.of == *of).map(|e| &e.finding)
    }

    /// Findings of one thing with what would mend them, tried on the whole job; of areas without remedies, which
    /// take a new layout ([`remedies::of_area`]).
    pub fn diagnoses(&self, job: &Job, known: &Assessment, of: &Subject) -> Vec<Diagnosis> {
        let mut all = match of {
            Subject::Valve(id) => job.valve(id).map(|v| remedies::of_zone(job, known, v)),
            Subject::Supply(id) => job.supply(id).map(|s| remedies::of_supply(job, known, s)),
            Subject::Area(_) | Subject::Job => None,
        }
        .unwrap_or_default();
        let others: Vec<&Finding> = self.at(of).filter(|f| all.iter().all(|d| d.finding != **f)).collect();
        all.extend(others.into_iter().map(|f| Diagnosis { finding: f.clone(), remedies: Vec::new() }));
        all.sort_by_key(|d| d.finding.severity);
        all
    }

    /// How many there are.
    pub fn total(&self) -> Total {
        Total::of(self.entries.iter().map(|e| &e.finding))
    }

    /// How many there are of one thing.
    pub fn total_at(&self, of: &Subject) -> Total {
        Total::of(self.at(of))
    }

    /// Its areas, for a verdict over the job as it then stands.
    pub fn areas_for(&self, then: &Job, now: &Job) -> KeptAreas {
        KeptAreas::of(&self.areas, then, now)
    }

    /// What is bought, coils by the least length: joints are judged on it.
    pub fn taken(&self) -> &Takeoff {
        &self.taken
    }

    /// How evenly each group waters, as its area was found to.
    pub fn even(&self, job: &Job) -> Evennesses {
        even(job, &self.areas)
    }
}

fn even(job: &Job, areas: &[AreaVerdict]) -> Evennesses {
    Evennesses::with(job, |area| areas.iter().find(|a| a.area == area).and_then(|a| a.expected))
}

/// What a packed night breaks.
fn of_night(night: &Night) -> Vec<Finding> {
    let mut found = Vec::new();
    if !night.fits() {
        let check = Check::NightTooLong { finish: night.finish, window: night.window.length };
        found.push(Finding::new(Severity::Fix, check));
    }
    if !night.broken.is_empty() {
        let check = Check::NightBroken { times: night.broken.len() };
        found.push(Finding::new(Severity::Fix, check));
    }
    found
}
