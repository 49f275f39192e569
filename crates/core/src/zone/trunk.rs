//! Drawn pipe laid into a network.

use super::bore::Bore;
use super::grow::{Builder, Step};
use super::piped::{MainInput, Pipework};
use crate::job::Job;
use crate::network::LinkKind;
use crate::plan::Valve;
use crate::units::Length;

/// K of a branch off a manifold, and of every branch that the water passes on its way
/// (tee branch 1.0, tee run 0.3).
const BRANCH_K: f64 = 1.0;
const RUN_K: f64 = 0.3;
/// From one valve of a manifold to the next, m.
const PITCH: f64 = 0.15;

impl Pipework {
    /// Lays it behind a node; gives the node of every joint that water reaches.
    pub(super) fn lay(
        &self,
        b: &mut Builder<'_>,
        from: usize,
        step: impl Fn(usize) -> Step,
    ) -> Vec<Option<usize>> {
        let mut nodes: Vec<Option<usize>> = vec![None; self.joints.len()];
        if let Some(first) = nodes.first_mut() {
            *first = Some(from);
        }
        for leg in &self.legs {
            let (a, z) = leg.ends;
            // Legs come in the order in which water reaches them.
            let Some(start) = nodes[a] else { continue };
            let kind = b.leg(leg.bore, leg.length);
            match nodes[z] {
                Some(end) => b.join(start, end, kind, step(a)),
                None => {
                    let rise = self.joints[z].spot.height - self.joints[a].spot.height;
                    nodes[z] = Some(b.extend(start, kind, rise, step(a), self.joints[z].id.clone()));
                }
            }
            b.drawn_leg(leg);
        }
        nodes
    }
}

impl MainInput {
    /// Lays it behind the connection; gives the node before the valve.
    pub(super) fn lay(&self, b: &mut Builder<'_>, connection: usize) -> usize {
        let nodes = self.pipework.lay(b, connection, |_| Step::Mainline);
        let at = nodes[self.end].unwrap_or(connection);
        match self.manifold {
            Some((bore, before)) => {
                b.extend(at, header(bore, before), Length::ZERO, Step::Mainline, "manifold".into())
            }
            None => at,
        }
    }
}

/// The whole main of a connection, laid once for several valves.
pub(super) struct MainTrunk {
    work: Pipework,
    nodes: Vec<Option<usize>>,
}

impl MainTrunk {
    pub(super) fn lay(b: &mut Builder<'_>, job: &Job, supply: &str, connection: usize) -> Self {
        let work = Pipework::of(job, supply, job.piping.main(supply));
        let nodes = work.lay(b, connection, |_| Step::Mainline);
        Self { work, nodes }
    }

    /// The node before a valve; none where the main does not reach it.
    pub(super) fn branch(&self, b: &mut Builder<'_>, job: &Job, valve: &Valve) -> Option<usize> {
        let own = MainInput::of(job, valve)?;
        let id = &own.pipework.joints[own.end].id;
        let at = self.nodes[self.work.joints.iter().position(|j| j.id == *id)?]?;
        Some(match own.manifold {
            Some((bore, before)) => {
                b.extend(at, header(bore, before), Length::ZERO, Step::Mainline, "manifold".into())
            }
            None => at,
        })
    }
}

/// The stretch of a manifold's header that leads to a valve, with the branches that it passes.
pub(super) fn header(bore: Bore, before: usize) -> LinkKind {
    LinkKind::Pipe {
        length: Length::from_m(PITCH * (before + 1) as f64),
        inside: bore.inside,
        roughness_c: bore.c,
        minor_loss_k: BRANCH_K + RUN_K * before as f64,
        open: true,
    }
}
