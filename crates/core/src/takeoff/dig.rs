//! The trench list: what is dug, how wide and deep, by hand or machine, and in how many hours.

use crate::earthwork::{Earthwork, Ground, earthwork};
use crate::job::Job;
use crate::site::Soil;
use crate::units::Length;

/// Width of a trench for one pipe, and for pipes side by side, in.
const ONE_PIPE_IN: f64 = 4.0;
const MORE_PIPES_IN: f64 = 6.0;
/// Dug earth lies looser than it was.
const SWELL: f64 = 1.25;
/// Hours a foot, by hand and by machine: loose, average, stony or rooted ground. Planning figures.
const LOOSE: (f64, f64) = (0.06, 0.015);
const AVERAGE: (f64, f64) = (0.09, 0.02);
const STONY: (f64, f64) = (0.15, 0.04);

/// A trench.
#[derive(Debug, Clone, PartialEq)]
pub struct DigRow {
    /// Its name.
    pub id: String,
    /// Pipes in it, by leg.
    pub legs: Vec<String>,
    /// Along it, without crossings.
    pub length: Length,
    /// Of that by hand: among roots.
    pub by_hand: Length,
    /// Across.
    pub width: Length,
    /// Down.
    pub depth: Length,
    /// Hours of one person with what the house digs with.
    pub hours: f64,
    /// Earth that lies beside it, m3.
    pub spoil_m3: f64,
}

/// All that is dug.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Digging {
    /// Trenches.
    pub rows: Vec<DigRow>,
    /// Crossings under paving: leg, length of its sleeve, sleeved, sleeves with the spares.
    pub crossings: Vec<(String, Length, bool, u32)>,
    /// Hours in all, crossings too.
    pub hours: f64,
}

impl Digging {
    /// Dug in all.
    pub fn length(&self) -> Length {
        Length::from_m(self.rows.iter().map(|r| r.length.m()).sum())
    }
    /// By hand in all.
    pub fn by_hand(&self) -> Length {
        Length::from_m(self.rows.iter().map(|r| r.by_hand.m()).sum())
    }
    /// Earth in all, m3.
    pub fn spoil_m3(&self) -> f64 {
        self.rows.iter().map(|r| r.spoil_m3).sum()
    }
}

/// Hours a foot in the soil of the job's ground: by hand, by machine.
fn pace(job: &Job) -> (f64, f64) {
    let all: Vec<Soil> = job.groups.iter().map(|g| g.soil).collect();
    let most = |soil: Soil| all.iter().filter(|s| **s == soil).count() * 2 > all.len();
    if most(Soil::Sand) { LOOSE } else { AVERAGE }
}

/// The trench list of what is drawn.
pub fn digging(job: &Job) -> Digging {
    let work = earthwork(job, &Ground::of(job));
    list(job, &work)
}

pub(super) fn list(job: &Job, work: &Earthwork) -> Digging {
    let rules = &job.rules;
    let (hand, machine) = pace(job);
    let usual = if rules.buying.hours.machine { machine } else { hand };
    let rows: Vec<DigRow> = work
        .trenches
        .iter()
        .map(|t| {
            let width = Length::from_in(if t.legs.len() > 1 { MORE_PIPES_IN } else { ONE_PIPE_IN });
            DigRow {
                id: t.id.clone(),
                legs: t.legs.clone(),
                length: t.length,
                by_hand: t.rooted,
                width,
                depth: t.depth,
                hours: (t.length.ft() - t.rooted.ft()).max(0.0) * usual + t.rooted.ft() * STONY.0,
                spoil_m3: t.length.m() * width.m() * t.depth.m() * SWELL,
            }
        })
        .collect();
    let crossings: Vec<_> = work
        .crossings
        .iter()
        .map(|c| {
            let length = Length::from_m(c.from.distance(c.to));
            (c.leg.clone(), length, c.sleeved, 1 + rules.trench.spare_sleeves)
        })
        .collect();
    let hours =
        rows.iter().map(|r| r.hours).sum::<f64>() + crossings.len() as f64 * rules.buying.hours.crossing;
    Digging { rows, crossings, hours }
}
