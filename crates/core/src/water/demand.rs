use super::curve::FLOW_TEST_EXPONENT as PIPE_EXPONENT;
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
    /// In one word, for files: `best`, `below-best`, `at-limit`.
    pub fn word(self) -> &'static str {
        match self {
            Self::Best => "best",
            Self::BelowBest => "below-best",
            Self::AtLimit => "at-limit",
        }
    }

    /// In the order in which they are tried.
    pub const ALL: [Self; 3] = [Self::Best, Self::BelowBest, Self::AtLimit];

    /// The pressure aimed at: a compensating emitter gives the same from the bottom of its band on.
    pub fn wanted(self, band: PressureBand, compensating: bool) -> Pressure {
        if compensating { band.least } else { self.pressure(band) }
    }

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

/// What a solved zone spends behind the shared chain on the way to its neediest head.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct OwnCost {
    /// What the zone takes.
    pub flow: Flow,
    /// Friction in its lateral.
    pub lateral: Pressure,
    /// Friction in its mainline.
    pub mainline: Pressure,
    /// Valve, filter, a regulator wide open, a regulated body.
    pub parts: Pressure,
    /// Height of its neediest head over the end of the chain; negative below it.
    pub rise: Length,
    /// Band of that head.
    pub band: PressureBand,
}

/// What a zone spends on friction behind the shared chain.
#[derive(Debug, Clone, PartialEq)]
pub enum Losses {
    /// Nothing is piped yet: a share of nominal for the lateral.
    Planned {
        /// Pressure that the lateral may cost.
        lateral: Pressure,
        /// Share of nominal that this is.
        share: f64,
        /// Mainline, valve, filter.
        links: Vec<LinkKind>,
    },
    /// Solved at the zone's own flow.
    Solved(OwnCost),
}

impl Losses {
    /// What they come to while a flow runs, zero or more. Planned: the lateral's share and each part at that
    /// flow. Solved: (lateral + mainline) (q / own)^1.852 + parts (q / own)^2, at most what they are at its
    /// own flow (Hazen and Williams 1905 for pipes, the square for parts). A solved zone costs what it costs
    /// at its own flow, whatever else the supply could give; where less may run than it takes, its losses
    /// shrink with the flow, as Hazen and Williams have it for pipes, and with the square for parts.
    pub fn at(&self, flow: Flow) -> Pressure {
        match self {
            Self::Planned { lateral, links, .. } => {
                *lateral + links.iter().map(|l| l.loss_at(flow)).sum::<Pressure>()
            }
            Self::Solved(own) => {
                let share = (flow / own.flow).min(1.0);
                (own.lateral + own.mainline) * share.powf(PIPE_EXPONENT) + own.parts * share.powi(2)
            }
        }
    }
}

/// What a zone wants at the end of the shared chain: pressure at its neediest nozzle, its height, and
/// what its own piping costs.
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
    /// Height over the end of the chain: of its neediest head where it is solved, else of its highest.
    pub rise: Length,
    /// Its lateral, mainline, valve and filter.
    pub losses: Losses,
}

impl PressureDemand {
    /// Nozzle and height together for an aim.
    pub fn fixed(&self, aim: Aim) -> Pressure {
        aim.pressure(self.band) + Pressure::of_height(self.rise)
    }
    /// All that it wants at the end of the chain for an aim while a flow runs.
    pub fn wants(&self, aim: Aim, flow: Flow) -> Pressure {
        self.fixed(aim) + self.losses.at(flow)
    }
    /// The same on level ground and as if nothing behind the chain cost anything: for a bound.
    #[must_use]
    pub fn at_the_least(self) -> Self {
        Self {
            rise: self.rise.min(Length::ZERO),
            losses: Losses::Planned { lateral: Pressure::ZERO, share: 0.0, links: Vec::new() },
            ..self
        }
    }
    /// What it wants with one head running, of which a lateral costs next to nothing.
    pub fn wants_for_one(&self, aim: Aim) -> Pressure {
        let links = match &self.losses {
            Losses::Planned { links, .. } => links.iter().map(|l| l.loss_at(self.one_head)).sum(),
            Losses::Solved(_) => self.losses.at(self.one_head),
        };
        self.fixed(aim) + links
    }
}

/// What each sprinkler zone of a supply wants, or each of drip where it has nothing else; before there are
/// valves, each group. `solved` knows what
/// a valve's zone spends, by the valve's id, where it has figures.
pub fn demands(job: &Job, supply: &Supply, solved: impl Fn(&str) -> Option<OwnCost>) -> Vec<PressureDemand> {
    let own = || job.valves.iter().filter(|v| v.supply == supply.id);
    let on = |v: &Valve| job.groups.iter().filter(|g| g.is_on(&v.id)).collect::<Vec<_>>();
    let only_drip = |v: &&Valve| on(v).iter().all(|g| is_drip(job, g));
    // Drip takes little flow: it does not limit how much a sprinkler valve may take.
    let all_drip = own().all(|v| only_drip(&v));
    let on_valves = own().filter_map(|v| {
        let groups: Vec<&HeadGroup> = on(v);
        let drip = only_drip(&v) && !all_drip;
        let of = DemandOf::Valve { number: job.valve_number(&v.id), name: v.name.clone() };
        (!drip).then(|| demand(job, of, Some(v), &groups, solved(&v.id))).flatten()
    });
    let found: Vec<PressureDemand> = on_valves.collect();
    if found.is_empty() && job.supplies.len() == 1 {
        let all_drip = job.groups.iter().all(|g| is_drip(job, g));
        let by_area = job.groups.iter().filter(|g| all_drip || !is_drip(job, g));
        return by_area
            .filter_map(|g| demand(job, DemandOf::Area(g.name.clone()), None, &[g], None))
            .collect();
    }
    found
}

/// What a group wants on a valve of its own at the end of a mainline like `home`'s, unpiped.
pub fn demand_of_group(job: &Job, group: &HeadGroup, home: Option<&Valve>) -> Option<PressureDemand> {
    demand(job, DemandOf::Area(group.name.clone()), home, &[group], None)
}

fn is_drip(job: &Job, group: &HeadGroup) -> bool {
    job.catalogue().nozzle(&group.nozzle).is_some_and(|n| n.kind.is_drip())
}

fn demand(
    job: &Job,
    of: DemandOf,
    valve: Option<&Valve>,
    groups: &[&HeadGroup],
    solved: Option<OwnCost>,
) -> Option<PressureDemand> {
    let catalogue = job.catalogue();
    let band = |g: &&HeadGroup| Some(catalogue.class(catalogue.nozzle(&g.nozzle)?.kind).band());
    let neediest = |a: PressureBand, b: PressureBand| if b.best > a.best { b } else { a };
    let band = groups.iter().filter_map(band).reduce(neediest)?;
    let one_head = groups.iter().filter_map(|g| {
        let nozzle = catalogue.nozzle(&g.nozzle)?;
        g.heads().map(|(index, arc, _)| nozzle.flow_set(arc, g.turned_down(index))).reduce(Flow::min)
    });
    let one_head = one_head.reduce(Flow::min).unwrap_or(Flow::ZERO);
    let valve_id = valve.map(|v| v.id.clone());
    if let Some(own) = solved {
        return Some(PressureDemand {
            of,
            valve: valve_id,
            band: own.band,
            one_head,
            rise: own.rise,
            losses: Losses::Solved(own),
        });
    }
    let main = valve.and_then(|v| v.mainline.as_ref());
    let rise = groups.iter().map(|g| job.rise_of(g, valve)).reduce(Length::max)?
        + valve.map_or(Length::ZERO, |v| job.rise_to(v));
    let mut links = Vec::new();
    if let Some(main) = main
        && let Some(kind) = catalogue.pipe(&main.pipe)
    {
        links.push(pipe(main.length, kind.inside, kind.c, job.rules.fittings));
    }
    let usual = || catalogue.valve_of(crate::catalogue::Duty::Standard).id.as_str();
    let parts =
        [valve.map_or_else(usual, |v| &v.model)].into_iter().chain(valve.and_then(|v| v.filter.as_deref()));
    links.extend(parts.filter_map(|id| Some(LinkKind::Device(catalogue.device(id)?.loss.clone()))));
    Some(PressureDemand {
        of,
        valve: valve_id,
        band,
        one_head,
        // Downhill counts as level: the first head may stand at the valve.
        rise: rise.max(Length::ZERO),
        losses: Losses::Planned { lateral: band.best * LATERAL_SHARE, share: LATERAL_SHARE, links },
    })
}
