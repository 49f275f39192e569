use super::bore::{Bore, Spot, TubeRun};
use super::piped::{MainInput, Pipework};
use crate::assembly::{Member, Train};
use crate::catalogue::{Catalogue, HeadClass, Kind, Mounting, Nozzle, PartRole, PipeDuty, RegulatorModel};
use crate::drip::{DripFault, Laid, lay};
use crate::job::Job;
use crate::network::Loss;
use crate::plan::{
    Arrangement, DrawnHead, DripLaying, DripRow, HeadGroup, HeadRef, PartIs, Plan, Regulation, RowEnds, Valve,
};
use crate::site::{Point, height_at};
use crate::units::{Flow, Length, Pressure};
use crate::water::SupplyPoint;
use std::sync::Arc;

/// A regulator of its own, fitted to a zone.
#[derive(Debug, Clone, PartialEq)]
pub struct FittedRegulator {
    /// What it is set to.
    pub set: Pressure,
    /// The model.
    pub model: RegulatorModel,
}

/// A nozzle with what is common to its class.
#[derive(Debug, Clone, PartialEq)]
pub struct Watering {
    /// The nozzle.
    pub nozzle: Nozzle,
    /// Its class.
    pub class: HeadClass,
}

/// The part of a listed group that hangs on the valve.
#[derive(Debug, Clone, PartialEq)]
pub struct GroupInput {
    /// Group id.
    pub id: String,
    /// Place in [`ZoneInputs::waterings`].
    pub watering: usize,
    /// Place in the group and arc of each head, along the pipe.
    pub heads: Vec<(u32, u16)>,
    /// How the lateral reaches them.
    pub arrangement: Arrangement,
    /// Between heads, or between rows of drip.
    pub spacing: Length,
    /// Between rows of heads.
    pub row_spacing: Length,
    /// Ground that each head is to water, m2, in the order of `heads`.
    pub ground: Vec<f64>,
    /// What one row is, for drip.
    pub row: Option<(DripRow, Bore)>,
    /// Lateral.
    pub lateral: Bore,
    /// The first leg.
    pub feed: TubeRun,
}

/// A drawn head on the valve.
#[derive(Debug, Clone, PartialEq)]
pub struct DrawnInput {
    /// Which.
    pub head: HeadRef,
    /// Its own name.
    pub id: String,
    /// Degrees.
    pub arc: u16,
    /// Throw that it is turned down to.
    pub turned: Option<Length>,
    /// Place in [`ZoneInputs::waterings`].
    pub watering: usize,
    /// Where it stands.
    pub spot: Spot,
    /// Lateral that leads to it.
    pub lateral: Bore,
    /// The first leg, where it is the first.
    pub feed: Bore,
    /// How far it is from the valve where that has no place on the plan.
    pub distance: Length,
    /// Ground that it is to water, m2.
    pub area_m2: f64,
    /// What is laid behind it, where it is an inlet of drip.
    pub grid: Option<GridInput>,
}

/// Drip behind an inlet, with the bores of its tubes.
#[derive(Debug, Clone, PartialEq)]
pub struct GridInput {
    /// As it lies.
    pub laid: Arc<Laid>,
    /// Tube with emitters.
    pub tube: Bore,
    /// Headers, feeds, lines past plants.
    pub header: Bore,
    /// To single plants.
    pub micro: Bore,
    /// How its rows' ends are joined; none: emitters at plants.
    pub ends: Option<RowEnds>,
    /// Its ends stand open and flood basins.
    pub floods: bool,
}

/// All that a zone's figures rest on. Two zones with equal inputs have equal figures, so whoever
/// keeps figures compares these and nothing else.
#[derive(Debug, Clone, PartialEq)]
pub struct ZoneInputs {
    /// Valve id.
    pub valve: String,
    /// The point of connection that feeds it.
    pub point: Arc<SupplyPoint>,
    /// Pipe from there to the valve.
    pub mainline: Option<TubeRun>,
    /// The main as drawn; it takes the place of `mainline`.
    pub main: Option<MainInput>,
    /// The lateral as drawn; heads that it doesn't reach hang on it by straight legs.
    pub lateral: Pipework,
    /// The solenoid valve.
    pub valve_loss: Option<Loss>,
    /// Its filter.
    pub filter_loss: Option<Loss>,
    /// Where it is regulated.
    pub regulation: Regulation,
    /// The regulator of its own that this takes.
    pub regulator: Option<FittedRegulator>,
    /// Allowance for fittings on the friction of pipes, 0.1: a tenth.
    pub fittings: f64,
    /// Nozzles that occur.
    pub waterings: Vec<Watering>,
    /// Listed groups.
    pub groups: Vec<GroupInput>,
    /// Where the valve stands on the plan.
    pub start: Option<Spot>,
    /// Its parts from the main to the lateral, in the direction of flow.
    pub train: Vec<Stage>,
    /// Drawn heads, and inlets of drip.
    pub drawn: Vec<DrawnInput>,
    /// Groups of drip on the valve that can't be laid, and why.
    pub unlaid: Vec<(String, DripFault)>,
    /// A hole behind the valve: what it gives at a pressure, with the root of it. Only stand-ins for the
    /// field know of one.
    pub leak: Option<(Flow, Pressure)>,
}

impl ZoneInputs {
    /// Gathers them for a valve at a point of connection.
    pub fn of(job: &Job, valve: &Valve, point: Arc<SupplyPoint>) -> Self {
        let catalogue = job.catalogue();
        let device = |id: &str| catalogue.device(id).map(|d| d.loss.clone());
        let mainline = valve.mainline.as_ref().and_then(|main| {
            let bore = catalogue.pipe(&main.pipe)?.into();
            Some(TubeRun { bore, length: main.length, rise: main.rise })
        });
        let mut inputs = Self {
            valve: valve.id.clone(),
            point,
            mainline,
            main: MainInput::of(job, valve),
            lateral: Pipework::lateral(job, valve),
            valve_loss: device(&valve.model),
            filter_loss: valve.filter.as_deref().and_then(device),
            regulation: Regulation::None,
            regulator: None,
            fittings: job.rules.fittings,
            waterings: Vec::new(),
            groups: Vec::new(),
            start: None,
            train: stages(catalogue, valve),
            drawn: Vec::new(),
            leak: None,
            unlaid: Vec::new(),
        };
        for group in job.groups.iter().filter(|g| !g.is_drawn()) {
            let listed = inputs.listed(job, group, &valve.id);
            inputs.groups.extend(listed);
        }
        inputs.draw(job, valve);
        inputs.with_regulation(valve.regulation, catalogue)
    }

    /// The same zone with so much more pressure at its source.
    #[must_use]
    pub fn boosted(&self, by: Pressure) -> Self {
        let mut point = SupplyPoint::clone(&self.point);
        point.curve.law = point.curve.law.raised(by);
        point.curve.static_pressure = point.curve.static_pressure + by;
        Self { point: Arc::new(point), ..self.clone() }
    }

    /// The same zone with so many of its heads, as they lie along the pipe.
    #[must_use]
    pub fn first(&self, heads: usize) -> Self {
        let mut kept = self.clone();
        let mut left = heads;
        for group in &mut kept.groups {
            group.heads.truncate(left);
            group.ground.truncate(left);
            left -= group.heads.len();
        }
        kept.groups.retain(|g| !g.heads.is_empty());
        kept.drawn.truncate(left);
        kept
    }

    /// The same zone regulated otherwise.
    #[must_use]
    pub fn with_regulation(mut self, regulation: Regulation, catalogue: &Catalogue) -> Self {
        let nominal = self.nominal_flow();
        self.regulation = regulation;
        self.regulator = fitted(regulation, nominal, catalogue);
        self
    }

    /// Set point of regulated bodies.
    pub(super) fn body(&self) -> Option<Pressure> {
        match self.regulation {
            Regulation::Body { set } => Some(set),
            _ => None,
        }
    }

    /// What its heads give at nominal pressure.
    pub fn nominal_flow(&self) -> Flow {
        let listed = self.groups.iter().flat_map(|g| {
            let nozzle = &self.waterings[g.watering].nozzle;
            let each = f64::from(g.row.map_or(1, |(r, _)| r.emitters));
            g.heads.iter().map(move |(_, arc)| nozzle.flow_for_arc(*arc) * each)
        });
        listed.chain(self.drawn.iter().map(|h| self.nominal_of(h))).sum()
    }

    /// What a drawn head, or all behind an inlet of drip, gives at nominal pressure.
    pub fn nominal_of(&self, head: &DrawnInput) -> Flow {
        head.grid.as_ref().map_or_else(
            || {
                let nozzle = &self.waterings[head.watering].nozzle;
                nozzle.flow_set(head.arc, head.turned)
            },
            |grid| grid.laid.flow(),
        )
    }

    /// True if no head hangs on it.
    pub fn is_empty(&self) -> bool {
        self.groups.is_empty() && self.drawn.is_empty() && self.unlaid.is_empty()
    }

    /// Place of a nozzle among the waterings, put there where it is new.
    fn watering(&mut self, id: &str, catalogue: &Catalogue) -> Option<usize> {
        if let Some(at) = self.waterings.iter().position(|w| w.nozzle.id == id) {
            return Some(at);
        }
        let nozzle = catalogue.nozzle(id)?.clone();
        let class = catalogue.class(nozzle.kind).clone();
        self.waterings.push(Watering { nozzle, class });
        Some(self.waterings.len() - 1)
    }

    fn listed(&mut self, job: &Job, group: &HeadGroup, valve: &str) -> Option<GroupInput> {
        if !group.is_on(valve) {
            return None;
        }
        let catalogue = job.catalogue();
        let on = group.heads().filter(|h| h.2 == Some(valve));
        let heads: Vec<(u32, u16)> = on.map(|(i, arc, _)| (i, arc)).collect();
        if heads.is_empty() {
            return None;
        }
        let lateral: Bore = catalogue.pipe(&group.pipe)?.into();
        let watering = self.watering(&group.nozzle, catalogue)?;
        let tube = match self.waterings[watering].nozzle.kind {
            Kind::Tape => PipeDuty::Tape,
            _ => PipeDuty::Dripline,
        };
        let feed = group.feed_pipe.as_ref().and_then(|p| catalogue.pipe(p));
        let nozzle = &self.waterings[watering].nozzle;
        let scale = job.ground_scale(group);
        let ground = heads.iter().map(|h| group.ground_of(nozzle, h.1) * scale);
        let ground = ground.collect();
        Some(GroupInput {
            id: group.id.clone(),
            watering,
            heads,
            arrangement: group.arrangement,
            spacing: group.spacing,
            row_spacing: group.row_spacing.unwrap_or(group.spacing),
            ground,
            row: group.row.map(|row| (row, catalogue.pipe_of(tube).into())),
            lateral,
            feed: TubeRun {
                bore: feed.map_or(lateral, Bore::from),
                length: group.distance,
                rise: group.rise,
            },
        })
    }

    fn draw(&mut self, job: &Job, valve: &Valve) {
        let heads = drawn_on(job, &valve.id);
        if heads.is_empty() {
            return;
        }
        let heights = job.site.heights();
        let spot = |at: Point| Spot { at, height: height_at(&heights, at).unwrap_or_default() };
        self.start = job.valve_point(valve).map(spot);
        let mut sectors = Sectors::default();
        let mut grids = Grids::default();
        for (group, index, head) in heads {
            let catalogue = job.catalogue();
            let Some(lateral) = catalogue.pipe(&group.pipe).map(Bore::from) else {
                continue;
            };
            let Some(watering) = self.watering(&group.nozzle, catalogue) else {
                continue;
            };
            let feed = group.feed_pipe.as_ref().and_then(|p| catalogue.pipe(p));
            let full = self.waterings[watering].nozzle.radius.unwrap_or(group.spacing);
            let grid = if group.drip.is_some() {
                match grids.part(job, group, index) {
                    Ok(grid) => Some(grid),
                    Err(fault) => {
                        self.unlaid.push((group.name.clone(), fault));
                        continue;
                    }
                }
            } else {
                None
            };
            let area_m2 = match &grid {
                Some(grid) => grid.laid.ground_m2,
                None => sectors.share(job, group, head, full),
            };
            self.drawn.push(DrawnInput {
                head: HeadRef { group: group.id.clone(), index },
                id: head.id.clone(),
                arc: head.arc,
                turned: head.radius,
                watering,
                spot: spot(head.at),
                lateral,
                feed: feed.map_or(lateral, Bore::from),
                distance: group.distance,
                area_m2,
                grid,
            });
        }
    }
}

/// A part of the zone's assembly, as the network takes it.
#[derive(Debug, Clone, PartialEq)]
pub enum Stage {
    /// The zone's own valve.
    Valve,
    /// Its own filter, where it has one.
    Filter,
    /// Its own regulator, where it has one.
    Regulator,
    /// Another part that costs something.
    Part {
        /// For people.
        label: String,
        /// What it costs.
        loss: Loss,
    },
    /// Another regulator.
    Preset {
        /// For people.
        label: String,
        /// What it holds.
        set: Pressure,
        /// What it costs wide open.
        loss: Loss,
    },
    /// Pipe to the beds: what follows stands at every one of them.
    Run,
}

/// The assembly of a valve as stages. The place of the own regulator is kept also where none is fitted.
fn stages(catalogue: &Catalogue, valve: &Valve) -> Vec<Stage> {
    if !Train::is_listed(&valve.assembly) {
        return vec![Stage::Valve, Stage::Filter, Stage::Regulator];
    }
    let any = Regulation::Inline { set: valve.regulation.set().unwrap_or(Pressure::from_psi(25.0)) };
    let stage = |m: Member| match (&m.is, m.role, m.set, m.loss) {
        (PartIs::Valve, ..) => Some(Stage::Valve),
        (PartIs::Filter, ..) => Some(Stage::Filter),
        (PartIs::Regulator, ..) if m.reversed => None,
        (PartIs::Regulator, ..) => Some(Stage::Regulator),
        (_, PartRole::Run, ..) => Some(Stage::Run),
        (_, _, Some(set), Some(loss)) if !m.reversed => Some(Stage::Preset { label: m.label, set, loss }),
        (_, _, _, Some(loss)) => Some(Stage::Part { label: m.label, loss }),
        _ => None,
    };
    Train::with(catalogue, valve, any).members.into_iter().filter_map(stage).collect()
}

/// The regulator of its own that a regulation takes: of those made for the place the one whose flow
/// band fits best.
fn fitted(regulation: Regulation, flow: Flow, catalogue: &Catalogue) -> Option<FittedRegulator> {
    let (set, mounting) = match regulation {
        Regulation::Valve { set } => (set, Mounting::Valve),
        Regulation::Inline { set } => (set, Mounting::Inline),
        Regulation::None | Regulation::Body { .. } => return None,
    };
    let off = |m: &&RegulatorModel| {
        let (low, high) = m.flow_band;
        (low.lpm() / flow.lpm().max(1e-6)).max(flow / high)
    };
    let model = catalogue.regulators_at(mounting).min_by(|a, b| off(a).total_cmp(&off(b)))?;
    Some(FittedRegulator { set, model: model.clone() })
}

/// The drip of each group, laid once.
#[derive(Default)]
struct Grids<'a>(Vec<(&'a str, Parts)>);

/// A group's drip, part by part.
type Parts = Result<Vec<Arc<Laid>>, DripFault>;

impl<'a> Grids<'a> {
    fn part(&mut self, job: &Job, group: &'a HeadGroup, index: u32) -> Result<GridInput, DripFault> {
        let at = self.0.iter().position(|g| g.0 == group.id).unwrap_or_else(|| {
            let parts = lay(job, group).map(|parts| parts.into_iter().map(Arc::new).collect());
            self.0.push((&group.id, parts));
            self.0.len() - 1
        });
        let parts = self.0[at].1.as_ref().map_err(Clone::clone)?;
        let laid = parts.get(index as usize).ok_or(DripFault::NothingLeft)?.clone();
        let bore = |id| job.catalogue().pipe(id).map(Bore::from).ok_or(DripFault::NoEmitter);
        Ok(GridInput {
            tube: bore(&laid.stuff.tube)?,
            header: bore(&laid.stuff.header)?,
            micro: bore(&laid.stuff.micro)?,
            ends: match &group.drip {
                Some(DripLaying::Rows(rows)) => Some(rows.ends),
                _ => None,
            },
            floods: group.drip.as_ref().is_some_and(DripLaying::floods),
            laid,
        })
    }
}

/// Sectors that the heads of each area throw over together, m2, summed once an area.
#[derive(Default)]
struct Sectors<'a>(Vec<(&'a str, f64, f64)>);

/// Ground in proportion to which a head's share is reckoned: its sector, of a strip half its rectangle, since
/// neighbours overlap by half.
fn sector(head: &DrawnHead, full: Length, nozzle: Option<&Nozzle>) -> f64 {
    let throw = head.radius.unwrap_or(full).m();
    match nozzle.and_then(|n| n.pattern) {
        Some(p) if p.width != p.length => {
            let turned = (throw / full.m().max(1e-9)).powi(2);
            p.width.m() * p.length.m() / 2.0 * turned
        }
        _ => throw.powi(2) * f64::from(head.arc) / 360.0,
    }
}

impl<'a> Sectors<'a> {
    /// Ground a head is to water, m2: its share, by the sector it throws over, of the drawn area;
    /// where none is drawn, head to head: a square as wide as its throw, by its arc.
    fn share(&mut self, job: &'a Job, group: &'a HeadGroup, head: &DrawnHead, full: Length) -> f64 {
        let mine = sector(head, full, job.catalogue().nozzle(&group.nozzle));
        let Some((id, area)) = group.area.as_deref().and_then(|a| Some((a, job.site.area(a)?))) else {
            return mine;
        };
        let at = self.0.iter().position(|s| s.0 == id).unwrap_or_else(|| {
            let sharing = (job.groups.iter()).filter(|g| g.area.as_deref() == Some(id) && g.drip.is_none());
            let all = sharing.flat_map(|g| {
                let nozzle = job.catalogue().nozzle(&g.nozzle);
                let full = nozzle.and_then(|n| n.radius).unwrap_or(g.spacing);
                g.drawn.iter().map(move |h| sector(h, full, nozzle))
            });
            self.0.push((id, all.sum(), area.shape.area_m2()));
            self.0.len() - 1
        });
        let (_, all, m2) = self.0[at];
        // Until heads cover the area, each waters no more than its own square.
        (m2 * mine / all.max(1e-9)).min(mine)
    }
}

/// The drawn heads on a valve, in the plan's order.
pub fn drawn_on<'a>(plan: &'a Plan, valve: &str) -> Vec<(&'a HeadGroup, u32, &'a DrawnHead)> {
    let on = |g: &'a HeadGroup| {
        let listed: u32 = g.listed.iter().map(|l| l.count).sum();
        g.drawn.iter().zip(listed..).map(move |(h, i)| (g, i, h))
    };
    plan.groups.iter().flat_map(on).filter(|(_, _, h)| h.valve.as_deref() == Some(valve)).collect()
}
