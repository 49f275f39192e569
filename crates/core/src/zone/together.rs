//! Several valves open at once on one connection: their zones on the shared main, solved as one network.

use super::ask::inputs_of;
use super::figures::{ZoneFault, head_results};
use super::grow::{Builder, Step};
use super::head::HeadResult;
use super::inputs::ZoneInputs;
use super::model::{lay_chain, lay_zone};
use super::trunk::MainTrunk;
use crate::job::Job;
use crate::network::{Network, solve};
use crate::units::{Flow, Pressure, Speed};

/// A valve that runs with others.
#[derive(Debug, Clone, PartialEq)]
pub struct TogetherZone {
    /// Valve id.
    pub valve: String,
    /// Water taken.
    pub flow: Flow,
    /// Its heads.
    pub heads: Vec<HeadResult>,
    /// Place in `heads` of the head furthest below its kind's nominal.
    pub worst: usize,
    /// What that head gets when the valve runs alone; none where that can't be solved.
    pub worst_alone: Option<Pressure>,
}

/// Valves that run together.
#[derive(Debug, Clone, PartialEq)]
pub struct Together {
    /// By valve, in the order that was asked.
    pub zones: Vec<TogetherZone>,
    /// Water taken in all.
    pub flow: Flow,
    /// At the end of the shared chain.
    pub at_connection: Pressure,
    /// Fastest that it runs in a main.
    pub main_velocity: Speed,
}

impl TogetherZone {
    /// The worst head.
    pub fn lowest(&self) -> &HeadResult {
        &self.heads[self.worst]
    }
}

/// Solves valves of one connection running at once, on its main as drawn; a valve that no drawn main reaches
/// hangs on the connection by its typed mainline.
///
/// # Errors
/// [`ZoneFault`]: the water is not known, a valve has no heads, or no balance is found.
///
/// # Source
/// Todini and Pilati (1988), as for one zone; the mains may close loops.
pub fn run_together(job: &Job, valves: &[&str]) -> Result<Together, ZoneFault> {
    let all: Vec<ZoneInputs> = valves
        .iter()
        .filter_map(|id| job.valve(id))
        .map(|valve| inputs_of(job, valve))
        .collect::<Result<_, _>>()?;
    let mut found = run_inputs_together(job, &all.iter().collect::<Vec<_>>())?;
    for (inputs, zone) in all.iter().zip(&mut found.zones) {
        let of = &zone.heads[zone.worst].head;
        let alone = super::assess_zone(inputs).ok();
        zone.worst_alone = alone.and_then(|z| Some(z.head(&of.group, of.index)?.nozzle));
    }
    Ok(found)
}

/// The same of zones whose inputs are known; what their worst heads get alone is not asked.
///
/// # Errors
/// As [`run_together`].
pub fn run_inputs_together(job: &Job, all: &[&ZoneInputs]) -> Result<Together, ZoneFault> {
    let first = *all.first().ok_or(ZoneFault::Empty)?;
    if all.iter().any(|i| i.is_empty()) {
        return Err(ZoneFault::Empty);
    }
    let mut b = Builder::starting(first);
    let connection = lay_chain(&mut b);
    let supply = job.valve(&first.valve).map(|v| v.supply.clone()).unwrap_or_default();
    let trunk = MainTrunk::lay(&mut b, job, &supply, connection);
    let mut parts = Vec::new();
    for inputs in all.iter().copied() {
        b = b.with_inputs(inputs);
        let (start, emitters) = (b.heads.len(), b.network.emitters.len());
        let valve = job.valve(&inputs.valve);
        let from = valve.and_then(|v| trunk.branch(&mut b, job, v));
        lay_zone(&mut b, connection, from);
        parts.push((start..b.heads.len(), emitters));
    }
    let Builder { network, heads, steps, .. } = b;
    let solution = solve(&network)?;
    let zones = all
        .iter()
        .zip(&parts)
        .map(|(inputs, (range, _))| {
            let heads = head_results(inputs, &heads[range.clone()], &solution);
            let share = |i: &usize| heads[*i].nozzle / heads[*i].band.best;
            let worst = (0..heads.len()).min_by(|a, b| share(a).total_cmp(&share(b))).unwrap_or(0);
            TogetherZone {
                valve: inputs.valve.clone(),
                flow: heads.iter().map(|h| h.flow).sum(),
                worst_alone: None,
                worst,
                heads,
            }
        })
        .collect();
    let fastest = steps
        .iter()
        .zip(&solution.links)
        .filter(|(step, _)| **step == Step::Mainline)
        .filter_map(|(_, l)| Some(l.velocity?.mps().abs()))
        .fold(0.0, f64::max);
    Ok(Together {
        zones,
        flow: solution.total_flow(),
        at_connection: solution.pressures[connection],
        main_velocity: Speed::from_mps(fastest),
    })
}

impl<'a> Builder<'a> {
    /// An empty network for a zone.
    pub(super) fn starting(inputs: &'a ZoneInputs) -> Self {
        Self {
            network: Network::default(),
            steps: Vec::new(),
            heads: Vec::new(),
            legs: Vec::new(),
            grids: Vec::new(),
            regulators: Vec::new(),
            body: inputs.body(),
            inputs,
        }
    }

    /// The same network, grown on for another zone.
    fn with_inputs(self, inputs: &'a ZoneInputs) -> Self {
        Self { body: inputs.body(), inputs, ..self }
    }
}
