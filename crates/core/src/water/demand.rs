use crate::catalogue::PressureBand;
use crate::chain::pipe;
use crate::job::Job;
use crate::network::LinkKind;
use crate::plan::{HeadGroup, Supply, Valve};
use crate::units::{Flow, Length, Pressure};

/// Whose demand it is.
#[derive(Debug, Clone, PartialEq)]
pub enum DemandOf {
    /// A valve, by its number and name.
    Valve {
        /// From 1.
        number: usize,
        /// Its name.
        name: String,
    },
    /// An area that is on no valve yet.
    Area(String),
}

/// How well the neediest nozzle is to work.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Aim {
    /// Nominal less a tenth.
    Best,
    /// Bottom of its band and 3 psi: below its best.
    BelowBest,
    /// Bottom of its band: at its limit.
    AtLimit,
}

/// Share under nominal at which a head still works as it should.
const UNDER_NOMINAL: f64 = 0.10;
/// Room over the bottom of the band, psi.
const OVER_BOTTOM_PSI: f64 = 3.0;
/// What a lateral may cost while nothing is piped, as a share of nominal.
const LATERAL_SHARE: f64 = 0.10;

impl Aim {
    /// In the order in which they are tried.
    pub const ALL: [Self; 3] = [Self::Best, Self::BelowBest, Self::AtLimit];

    /// The pressure at a nozzle of this band; never over the first aim nor under the band.
    pub fn pressure(self, band: PressureBand) -> Pressure {
        let best = (band.best * (1.0 - UNDER_NOMINAL)).max(band.least);
        match self {
            Self::Best => best,
            Self::BelowBest => (band.least + Pressure::from_psi(OVER_BOTTOM_PSI)).min(best),
            Self::AtLimit => band.least,
        }
    }
}

/// What a zone wants at the end of the shared chain: pressure at no flow in its own lateral, and
/// what its mainline and valve cost at a flow.
#[derive(Debug, Clone, PartialEq)]
pub struct PressureDemand {
    /// Whose.
    pub of: DemandOf,
    /// Its valve, by its id; none for an area that is on none yet.
    pub valve: Option<String>,
    /// Band of its neediest nozzle.
    pub band: PressureBand,
    /// What its smallest head takes at nominal.
    pub one_head: Flow,
    /// Height of its highest head, the mainline's included.
    pub rise: Length,
    /// Pressure that its lateral may cost.
    pub lateral: Pressure,
    /// Share of nominal that this is.
    pub lateral_share: f64,
    /// Mainline, valve, filter.
    pub links: Vec<LinkKind>,
}

impl PressureDemand {
    /// Nozzle, height and lateral together for an aim; downhill counts as level.
    pub fn fixed(&self, aim: Aim) -> Pressure {
        aim.pressure(self.band) + Pressure::of_height(self.rise.max(Length::ZERO)) + self.lateral
    }
    /// What its own mainline, valve and filter cost at a flow.
    pub fn own_loss(&self, flow: Flow) -> Pressure {
        self.links.iter().map(|l| l.loss_at(flow)).sum()
    }
}

/// What each sprinkler zone of a supply wants; before there are valves, each group.
pub fn demands(job: &Job, supply: &Supply) -> Vec<PressureDemand> {
    let on_valves = job
        .valves
        .iter()
        .filter(|v| v.supply == supply.id)
        .filter_map(|v| {
            let groups: Vec<&HeadGroup> = job.groups.iter().filter(|g| g.is_on(&v.id)).collect();
            // Drip takes little flow: it does not limit how much a sprinkler valve may take.
            let drip = groups.iter().all(|g| is_drip(job, g));
            let of = DemandOf::Valve {
                number: job.valve_number(&v.id),
                name: v.name.clone(),
            };
            (!drip).then(|| demand(job, of, Some(v), &groups)).flatten()
        });
    let found: Vec<PressureDemand> = on_valves.collect();
    if found.is_empty() && job.supplies.len() == 1 {
        let by_area = job.groups.iter();
        return by_area
            .filter_map(|g| demand(job, DemandOf::Area(g.name.clone()), None, &[g]))
            .collect();
    }
    found
}

fn is_drip(job: &Job, group: &HeadGroup) -> bool {
    job.catalogue()
        .nozzle(&group.nozzle)
        .is_some_and(|n| n.kind.is_drip())
}

fn demand(job: &Job, of: DemandOf, valve: Option<&Valve>, groups: &[&HeadGroup]) -> Option<PressureDemand> {
    let catalogue = job.catalogue();
    let band = |g: &&HeadGroup| Some(catalogue.class(catalogue.nozzle(&g.nozzle)?.kind).band());
    let neediest = |a: PressureBand, b: PressureBand| if b.best > a.best { b } else { a };
    let band = groups.iter().filter_map(band).reduce(neediest)?;
    let one_head = groups.iter().filter_map(|g| {
        let nozzle = catalogue.nozzle(&g.nozzle)?;
        g.heads().map(|h| nozzle.flow_for_arc(h.1)).reduce(Flow::min)
    });
    let one_head = one_head.reduce(Flow::min).unwrap_or(Flow::ZERO);
    let main = valve.and_then(|v| v.mainline.as_ref());
    let rise = groups.iter().map(|g| job.rise_of(g, valve)).reduce(Length::max)?
        + main.map_or(Length::ZERO, |m| m.rise);
    let mut links = Vec::new();
    if let Some(main) = main
        && let Some(kind) = catalogue.pipe(&main.pipe)
    {
        links.push(pipe(main.length, kind.inside, kind.c, job.rules.fittings));
    }
    let usual = || catalogue.valve_of(crate::catalogue::Duty::Standard).id.as_str();
    let parts = [valve.map_or_else(usual, |v| &v.model)]
        .into_iter()
        .chain(valve.and_then(|v| v.filter.as_deref()));
    links.extend(parts.filter_map(|id| Some(LinkKind::Device(catalogue.device(id)?.loss.clone()))));
    Some(PressureDemand {
        of,
        valve: valve.map(|v| v.id.clone()),
        band,
        one_head,
        rise,
        lateral: band.best * LATERAL_SHARE,
        lateral_share: LATERAL_SHARE,
        links,
    })
}
