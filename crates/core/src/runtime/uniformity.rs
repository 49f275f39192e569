//! The evenness that run times are reckoned with: expected, not ideal.

use crate::assess::Assessment;
use crate::catalogue::Kind;
use crate::coverage::{Expected, REPETITIONS, aim_of, expected, sources};
use crate::job::Job;
use crate::plan::{DripLaying, HeadGroup};

/// Evenness of drip whose emitters all get their pressure: what new emitters differ.
const EMITTERS: f64 = 0.90;

/// Where a figure for evenness comes from.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum EvennessFrom {
    /// Simulated over the drawn area.
    Simulated(Expected),
    /// What audits find on sound layouts of the kind: heads are only listed.
    Usual,
    /// Emitters in rows.
    Emitters,
    /// Plants get their own emitters: no ground between them is to be evened out.
    Plants,
}

/// Distribution uniformity of the lower quarter of a group.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Evenness {
    /// From 0 to 1.
    pub du: f64,
    /// Where from.
    pub from: EvennessFrom,
}

/// Evenness by group; made once for a job as it stands, since simulating it takes longest.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Evennesses(Vec<(String, Evenness)>);

impl Evennesses {
    /// Of all groups of a job. Areas are simulated with 30 repetitions.
    pub fn of(job: &Job, known: &Assessment) -> Self {
        let solved = known.solved_heads();
        let mut areas: Vec<(String, Option<Expected>)> = Vec::new();
        Self::with(job, |id| {
            if let Some((_, known)) = areas.iter().find(|(a, _)| a == id) {
                return *known;
            }
            let fresh = expected(job, id, &sources(job, &solved, id), REPETITIONS);
            areas.push((id.to_owned(), fresh));
            fresh
        })
    }

    /// Of all groups of a job whose areas somebody has simulated.
    pub fn with(job: &Job, mut simulated: impl FnMut(&str) -> Option<Expected>) -> Self {
        let of = |group: &HeadGroup| {
            let area = group.area.as_deref().filter(|_| sprinkles(job, group));
            (group.id.clone(), evenness(job, group, area.and_then(&mut simulated)))
        };
        Self(job.groups.iter().map(of).collect())
    }

    /// Of a group; perfect where it is not known.
    pub fn of_group(&self, group: &str) -> Evenness {
        let found = self.0.iter().find(|(id, _)| id == group);
        found.map_or(Evenness { du: 1.0, from: EvennessFrom::Plants }, |f| f.1)
    }
}

/// Drawn heads that throw.
fn sprinkles(job: &Job, group: &HeadGroup) -> bool {
    let nozzle = job.catalogue().nozzle(&group.nozzle);
    !group.drawn.is_empty() && group.drip.is_none() && nozzle.is_some_and(|n| !n.kind.is_drip())
}

fn evenness(job: &Job, group: &HeadGroup, simulated: Option<Expected>) -> Evenness {
    let kind = job.catalogue().nozzle(&group.nozzle).map(|n| n.kind);
    let (du, from) = match (simulated, &group.drip, kind) {
        (_, Some(DripLaying::Plants(_)), _) => (1.0, EvennessFrom::Plants),
        (Some(expected), _, _) => (expected.du, EvennessFrom::Simulated(expected)),
        (_, _, Some(kind)) if kind.is_drip() => (usual_du(kind), EvennessFrom::Emitters),
        (_, _, Some(kind)) => (usual_du(kind), EvennessFrom::Usual),
        (_, _, None) => (1.0, EvennessFrom::Plants),
    };
    Evenness { du, from }
}

/// What audits find on sound layouts of a kind, and what emitters differ.
pub(super) fn usual_du(kind: Kind) -> f64 {
    if kind.is_drip() { EMITTERS } else { aim_of(kind) }
}

/// Most that unevenness may lengthen a run: beyond that the layout is to be mended, not watered over.
pub const MOST_MULTIPLIER: f64 = 1.67;

/// Scheduling multiplier by the lower quarter: 1 / (0.4 + 0.6 DU), at most 1.67. DU from 0 to 1.
///
/// # Example
/// DU 0.72: 1.202.
pub fn multiplier(du: f64) -> f64 {
    (1.0 / (0.4 + 0.6 * du.clamp(0.0, 1.0))).min(MOST_MULTIPLIER)
}
