use super::cures::Cures;
use super::{Check, Finding, Found, piped};
use crate::catalogue::{Kind, Mounting, Role};
use crate::job::Job;
use crate::piping::Contents;
use crate::plan::{ChainItem, ChainPart, Edit, Regulation, Supply, Valve};
use crate::units::{Flow, Length, Pressure, Speed};
use crate::zone::{ZoneAssessment, zone_of};

/// What to do.
#[derive(Debug, Clone, PartialEq)]
pub enum Action {
    /// Feed the row in its middle, with so much more pipe.
    FeedInMiddle(Length),
    /// The whole lateral in a larger pipe, named for people.
    Lateral(String),
    /// The first leg in a larger pipe, named for people.
    FirstLeg(String),
    /// Half of the heads on a valve of their own.
    SplitInTwo,
    /// A valve of its own for an area, by its name.
    OwnValve(String),
    /// Fit a regulation to so many heads.
    Fit(Regulation, usize),
    /// Take a valve for little flow.
    LowFlowValve,
    /// Put a filter behind the valve.
    Filter,
    /// Lay rows, or take emitters, no farther apart.
    DripCloser {
        /// Rows, else emitters.
        rows: bool,
        /// No farther than this.
        apart: Length,
    },
    /// Lay the drip in so many parts, each on a valve of its own.
    DripParts(usize),
    /// Lay rows along the contour.
    DripAlongContour,
    /// Take a larger filter, by its label.
    LargerFilter(String),
    /// Give each arc its own nozzle, by the nozzles' ids.
    MatchArcs(Vec<(u16, String)>),
    /// Set arcs that are not made to the nearest that is, degrees.
    SetArcs(u16),
    /// Set the system regulator to this.
    SetSystem(Pressure),
    /// Put a reducing valve into the chain.
    SystemRegulator(Pressure),
    /// Lay out the same kind anew.
    LayOutAnew(Kind),
    /// Set throws to what their nozzles can.
    SetThrows,
    /// Move heads off the edge.
    MoveIn,
    /// Lay the lateral anew.
    Reroute,
    /// Put so many legs into sleeves where they cross paving.
    Sleeves(usize),
    /// Lay it so deep.
    Deeper(Length),
    /// Set a second box beside a full one.
    SecondBox,
}

/// What it gives, computed by solving the job with it applied.
#[derive(Debug, Clone, PartialEq)]
pub enum Effect {
    /// Pressure at the last head.
    LastHead(Pressure),
    /// Velocity, and pressure at the last head.
    VelocityAndLastHead(Speed, Pressure),
    /// Flow and last head of each of two zones.
    TwoZones([(Flow, Pressure); 2]),
    /// Flow that stays here, and flow of the new zone.
    HereAndThere(Flow, Flow),
    /// Lowest and highest head.
    Range(Pressure, Pressure),
    /// It caps what reaches the valves.
    Caps,
    /// So many zones of all are then below their band.
    Starved(usize, usize),
    /// Heads, DU and share on what is kept dry of a new layout.
    Layout {
        /// Heads.
        heads: usize,
        /// Distribution uniformity of the lowest quarter.
        du: f64,
        /// Share of the water, 0 to 1.
        on_dry: f64,
    },
    /// Highest rate of the arcs over the lowest.
    RateRatio(f64),
    /// Throws from the least to the full.
    Throws(Length, Length),
    /// Distance to the edge.
    OffEdge(Length),
    /// Pipe of the lateral then, and now.
    Pipe {
        /// Then.
        becomes: Length,
        /// Now.
        was: Length,
    },
    /// So much pipe under paving in sleeves.
    Sleeved {
        /// Its length.
        length: Length,
    },
    /// So many legs.
    Legs(usize),
    /// What stays in a box, and what goes to the one beside it.
    Boxes(Contents, Contents),
}

/// A change that mends a finding.
#[derive(Debug, Clone, PartialEq)]
pub struct Remedy {
    /// What to do.
    pub action: Action,
    /// What it gives.
    pub effect: Effect,
    /// The change.
    pub edit: Edit,
    /// False where it helps, but not enough alone.
    pub mends: bool,
    /// What it brings with it that is as bad, where nothing better is known.
    pub costs: Vec<Finding>,
}

impl Remedy {
    /// One that mends, until it is tried on the whole job.
    pub fn new(action: Action, effect: Effect, edit: Edit) -> Self {
        Self { action, effect, edit, mends: true, costs: Vec::new() }
    }
}

/// Findings of a zone with what would mend each: fractions of a millisecond a remedy.
pub fn zone_found(job: &Job, valve: &Valve, zone: &ZoneAssessment, findings: &[Finding]) -> Vec<Found> {
    let cures = Cures { job, valve, zone };
    findings.iter().map(|f| Found { finding: f.clone(), remedies: of_zone(&cures, &f.check) }).collect()
}

fn of_zone(c: &Cures<'_>, check: &Check) -> Vec<Remedy> {
    let all = match check {
        Check::HeadStarved { .. } => {
            let robbed = c.zone.regulator.as_ref().is_some_and(|r| r.room < c.job.rules.regulator_room);
            let without =
                (c.valve.regulation != Regulation::None && robbed).then(|| c.fit(Regulation::None)).flatten();
            vec![c.feed_in_middle(), c.larger_pipe(), c.split_in_two(), c.drip_parts(), without]
        }
        Check::PressureHigh { .. } | Check::DripNoRegulator { .. } | Check::DripOverRating { .. } => {
            vec![c.regulate()]
        }
        Check::FlowOverDesign { .. } => {
            let over_nominal = c.zone.flow > c.zone.nominal_flow;
            vec![c.split_in_two(), over_nominal.then(|| c.regulate()).flatten(), c.drip_parts()]
        }
        Check::BelowAim { .. } => vec![c.feed_in_middle(), c.larger_pipe(), c.split_in_two()],
        Check::DirtyFilter { .. } => vec![c.larger_filter(), c.larger_pipe(), c.split_in_two()],
        Check::ServiceVelocity { .. } => vec![c.split_in_two()],
        Check::DripNearRating { .. } => vec![c.regulate()],
        Check::HeightOnValve { bodies: false, drip: false, .. } => vec![c.split_in_two()],
        Check::ArcsUnmatched { id, .. } => vec![c.job.group(id).and_then(|g| c.match_arcs(g))],
        Check::ArcNotMade { .. } => vec![c.arcs_that_are_made()],
        Check::PumpCycles { .. } => Vec::new(),
        Check::Spread { .. } => vec![c.feed_in_middle(), c.larger_pipe()],
        Check::Velocity { .. } => vec![c.larger_first_leg(), c.split_in_two(), c.drip_parts()],
        Check::NoRoom { inlet, wanted, .. } => {
            vec![c.lower(*inlet - *wanted), c.drip_parts(), c.fit(Regulation::None)]
        }
        Check::RegulatorFlow { .. } => vec![c.bodies_instead()],
        Check::ValveMinFlow { .. } => vec![c.low_flow_valve()],
        Check::DripNoFilter { .. } => vec![c.filter()],
        Check::DripSpacing { group, rows, widest, .. } => vec![c.closer(group, *rows, *widest)],
        Check::DripDownhill { group, .. } => vec![c.along_contour(group)],
        Check::Mixed { group, .. } | Check::MixedNever { group, .. } => {
            vec![c.job.group(group).and_then(|g| c.part_from(g))]
        }
        other => vec![piped::of_valve(c.job, c.valve, other)],
    };
    all.into_iter().flatten().collect()
}

/// Findings of a point of connection with what would mend each.
pub fn supply_found(job: &Job, supply: &Supply, findings: &[Finding]) -> Vec<Found> {
    let remedies = |f: &Finding| match f.check {
        Check::StaticHigh { .. } => system_regulator(job, supply).into_iter().collect(),
        Check::SystemNoRoom { inlet, wanted, .. } => {
            set_system(job, supply, inlet - wanted).into_iter().collect()
        }
        Check::SystemRange { set, range } => {
            set_system(job, supply, set.max(range.0).min(range.1)).into_iter().collect()
        }
        ref other => piped::of_supply(job, supply, other).into_iter().collect(),
    };
    findings.iter().map(|f| Found { finding: f.clone(), remedies: remedies(f) }).collect()
}

/// What a change of a connection does to its valves: how many then starve; where there are none yet it caps
/// what will reach them.
fn on_all_valves(job: &Job, supply: &Supply, edit: &Edit) -> Option<Effect> {
    let (after, _) = job.apply(edit).ok()?;
    let zones: Vec<ZoneAssessment> = after
        .valves
        .iter()
        .filter(|v| v.supply == supply.id)
        .filter_map(|v| zone_of(&after, v).ok())
        .collect();
    let starved = zones.iter().filter(|z| z.lowest().nozzle < z.lowest().band.least).count();
    Some(if zones.is_empty() { Effect::Caps } else { Effect::Starved(starved, zones.len()) })
}

/// The same system regulator set to what has its room, to a whole psi.
fn set_system(job: &Job, supply: &Supply, to: Pressure) -> Option<Remedy> {
    let set = Pressure::from_psi(to.psi().floor());
    let range = job.catalogue().regulators_at(Mounting::Connection).next()?.range?;
    if set < range.0 || set > range.1 {
        return None;
    }
    let mut changed = supply.clone();
    for item in &mut changed.chain {
        if let ChainPart::Regulator { set: old } = &mut item.part {
            *old = set;
        }
    }
    let edit = Edit::put(changed);
    let effect = on_all_valves(job, supply, &edit)?;
    Some(Remedy::new(Action::SetSystem(set), effect, edit))
}

/// A reducing valve for the building: before the irrigation's own backflow device, where the building's
/// pipes have not branched off yet.
fn system_regulator(job: &Job, supply: &Supply) -> Option<Remedy> {
    let set = Pressure::from_psi(70.0);
    let mut changed = supply.clone();
    let is_backflow = |part: &ChainPart| match part {
        ChainPart::Device { model } => {
            let device = job.catalogue().device(model);
            device.is_some_and(|d| d.role == Role::Backflow)
        }
        _ => false,
    };
    let at = supply.chain.iter().position(|c| is_backflow(&c.part));
    let item = ChainItem { id: job.fresh_id('c'), part: ChainPart::Regulator { set } };
    changed.chain.insert(at.unwrap_or(supply.chain.len()), item);
    let edit = Edit::put(changed);
    let effect = on_all_valves(job, supply, &edit)?;
    Some(Remedy::new(Action::SystemRegulator(set), effect, edit))
}
