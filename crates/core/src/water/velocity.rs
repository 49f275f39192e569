//! How fast the water runs in the pipes that all valves share.

use crate::job::Job;
use crate::plan::{ChainItem, ChainPart, Supply};
use crate::units::{Flow, Speed};

/// How fast the water runs in a pipe that all valves share.
#[derive(Debug, Clone, PartialEq)]
pub struct SharedVelocity {
    /// The pipe's place in the chain.
    pub part: usize,
    /// The pipe, for people.
    pub pipe: String,
    /// How fast.
    pub velocity: Speed,
    /// The house's limit for its material.
    pub limit: Speed,
    /// Plastic gives way to a surge more than metal does.
    pub plastic: bool,
}

/// Velocity in the service line and every other shared pipe at a flow, v = Q / (π d² / 4): also in those
/// before the gauge, which the readings have gone through already.
pub fn shared_velocities(job: &Job, supply: &Supply, flow: Flow) -> Vec<SharedVelocity> {
    let of = |(part, item): (usize, &ChainItem)| {
        let ChainPart::Pipe { pipe, .. } = &item.part else {
            return None;
        };
        let pipe = job.catalogue().pipe(pipe)?;
        let one = Speed::from_fps(1.0);
        Some(SharedVelocity {
            part,
            pipe: pipe.title(),
            velocity: one * (flow / Flow::at_speed(pipe.inside, one)),
            limit: if pipe.plastic { job.rules.service_plastic } else { job.rules.service_metal },
            plastic: pipe.plastic,
        })
    };
    supply.chain.iter().enumerate().filter_map(of).collect()
}
