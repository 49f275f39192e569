use super::visit::filled;
use super::{Aim, CurveFault, CurveFrom, PressureDemand, SupplyPoint};
use crate::catalogue::METER_LOSS_AT_MAX_PSI;
use crate::job::Job;
use crate::plan::{ChainPart, DesignFlowMethod, ReadingKind, Supply, WaterSource};
use crate::units::{Flow, Length, Minutes, Pressure, Speed, Volume};
use std::sync::Arc;

/// A rule of a method with the figures that go into it.
#[derive(Debug, Clone, PartialEq)]
pub enum FlowRule {
    /// The flow at which the meter costs no more than a share of the static pressure.
    MeterLoss {
        /// The meter.
        size: String,
        /// Its safe maximum.
        safe_max: Flow,
        /// Share of the static pressure, 0 to 1.
        share: f64,
        /// The static pressure.
        static_pressure: Pressure,
        /// What the rule gives.
        flow: Flow,
    },
    /// A share of the meter's safe maximum.
    MeterShare {
        /// The meter.
        size: String,
        /// Its safe maximum.
        safe_max: Flow,
        /// The share, 0 to 1.
        share: f64,
        /// What the rule gives.
        flow: Flow,
    },
    /// The flow at which a service line runs at its limit.
    ServiceVelocity {
        /// The pipe, for people.
        pipe: String,
        /// Inside diameter.
        inside: Length,
        /// The limit.
        limit: Speed,
        /// What the rule gives.
        flow: Flow,
    },
    /// What the neediest zone wants at the connection.
    Demand(PressureDemand, Aim),
    /// The flow at which just that arrives.
    Arrives {
        /// Whose demand it is.
        demand: PressureDemand,
        /// How well its neediest nozzle then works.
        aim: Aim,
        /// Pressure at the connection at that flow.
        at_connection: Pressure,
        /// The flow.
        flow: Flow,
    },
    /// A bucket and a watch.
    Bucket {
        /// What it held.
        volume: Volume,
        /// How long it took.
        time: Minutes,
        /// What that gives.
        flow: Flow,
    },
    /// What a pump or well gives for long.
    Pump {
        /// The flow.
        flow: Flow,
    },
    /// The flow at which the parts up to the valves cost all that a tank's height gives.
    Tank {
        /// The pressure of the height.
        pressure: Pressure,
        /// The flow.
        flow: Flow,
    },
}

/// What limits a method, or what it lacks.
#[derive(Debug, Clone, PartialEq)]
pub enum MethodSays {
    /// The pressure that the meter may cost.
    MeterLoss,
    /// The meter's safe flow.
    MeterFlow,
    /// The velocity in the service line.
    ServiceVelocity,
    /// Meter and service line are not in the chain.
    AddMeterAndService,
    /// The static pressure is not known.
    EnterStatic,
    /// No heads yet: what they want decides.
    EnterHeads,
    /// A static pressure alone gives no flow.
    ReadRunning,
    /// Not even one head of this zone gets the bottom of its band: so much is missing.
    CantServe(super::DemandOf, Pressure),
    /// This zone wants so much at the connection, and works so well then.
    Wants(super::DemandOf, Pressure, Aim),
    /// The bib itself holds back.
    LowerBound,
    /// What the open tap gives, with none of its pressure left.
    OpenTap,
    /// No bucket was timed.
    NoBucket,
    /// The most that the pump gives for long.
    PumpMost,
    /// Of a tank the pipe behind it decides: none is in the chain yet.
    AddPipe,
    /// At that flow nothing of the tank's height is left at the valves.
    TankMost,
}

/// What one method says.
#[derive(Debug, Clone, PartialEq)]
pub struct MethodResult {
    /// The method.
    pub method: DesignFlowMethod,
    /// Its flow before the margin; none with the reason in `says`.
    pub flow: Option<Flow>,
    /// What limits it, or what is missing.
    pub says: MethodSays,
    /// Its rules.
    pub rules: Vec<FlowRule>,
}

/// The flow at which the supply still gives what one zone wants.
#[derive(Debug, Clone, PartialEq)]
pub struct ZoneFlow {
    /// Its valve, by its id; none for an area on none.
    pub valve: Option<String>,
    /// Before the margin; none where not one head gets the bottom of its band.
    pub flow: Option<Flow>,
    /// How well its neediest nozzle works then.
    pub aim: Aim,
    /// What its neediest nozzle is aimed to get.
    pub wanted: Pressure,
    /// What is missing for one head at the bottom of its band.
    pub missing: Option<Pressure>,
}

/// The flow that a valve may take.
#[derive(Debug, Clone, PartialEq)]
pub struct DesignFlow {
    /// What each zone may take for its own pressure; empty while that is not known.
    pub by_zone: Vec<ZoneFlow>,
    /// Every method, whether it applies or not.
    pub methods: Vec<MethodResult>,
    /// The method gone by.
    pub by: Option<DesignFlowMethod>,
    /// True if the user pinned it.
    pub pinned: bool,
    /// Before the margin; none while nothing is known.
    pub safe: Option<Flow>,
    /// Share kept back, 0 to 0.9.
    pub margin: f64,
    /// What the house takes meanwhile, off the safe flow first.
    pub house: Flow,
    /// After house and margin; none while nothing is known.
    pub flow: Option<Flow>,
    /// What is gone by meanwhile, by the house's rule, where a static pressure is all that is known.
    pub assumed: Option<Flow>,
}

/// What a valve is held to.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Allowance {
    /// Most that it may take; none where only pressures are known.
    pub flow: Option<Flow>,
    /// That is the company's default: nobody read it.
    pub assumed: bool,
    /// How well its neediest head is to work.
    pub aim: Aim,
}

impl DesignFlow {
    /// What a valve is held to: every check and every proposal asks here.
    pub fn allowance(&self, valve: &str) -> Allowance {
        Allowance {
            flow: self.limit(),
            assumed: self.flow.is_none(),
            aim: self.of_zone(valve).map_or(Aim::Best, |z| z.aim),
        }
    }
    /// What one more valve may count on, before its heads are known.
    pub fn for_new_valve(&self) -> Option<Flow> {
        self.limit().or(self.flow)
    }
    /// What may run at once on the connection.
    pub fn at_once(&self) -> Option<Flow> {
        self.flow.or(self.assumed)
    }
    /// What any valve of the connection may take at most: by meter and service line, by the pump, as
    /// pinned, or as assumed. None where only pressures are known: then each zone's own pressure decides.
    pub fn limit(&self) -> Option<Flow> {
        use DesignFlowMethod::{MeterAndService, Pump};
        match self.by {
            Some(by) if self.pinned || matches!(by, MeterAndService | Pump) => self.flow,
            _ => self.assumed,
        }
    }
    /// The zone's own flow at working pressure.
    pub fn of_zone(&self, valve: &str) -> Option<&ZoneFlow> {
        self.by_zone.iter().find(|z| z.valve.as_deref() == Some(valve))
    }
    /// What a valve may take: the connection's figure, and its own for its pressure. Another zone's
    /// pressure is no concern of it; a pinned figure stands for all.
    pub fn for_valve(&self, valve: &str) -> Option<Flow> {
        let own = self.of_zone(valve).and_then(|z| z.flow).map(|f| self.kept(f));
        match (self.limit(), own) {
            _ if self.pinned => self.flow,
            (Some(limit), Some(own)) => Some(limit.min(own)),
            (limit, own) => limit.or(own).or(self.flow),
        }
    }
    /// A flow less what the house takes and the margin.
    fn kept(&self, flow: Flow) -> Flow {
        (flow - self.house).max(Flow::ZERO) * (1.0 - self.margin)
    }
}

/// Design flow of a point of connection by every method. What meter and service line, or a pump, allow
/// counts for all its valves. Where neither is known, the flow at working pressure of the neediest zone
/// does. A timed bucket is a lower bound and never limits by itself. A pinned method counts alone.
pub fn design_flow(
    job: &Job,
    supply: &Supply,
    point: &Result<Arc<SupplyPoint>, CurveFault>,
    demands: &[PressureDemand],
) -> DesignFlow {
    let known = point.as_deref().ok();
    let meter = meter_and_service(job, supply, known);
    // A static pressure alone says nothing of a flow: it wants the parts that cost, or a reading.
    let has = |wanted: fn(&ChainPart) -> bool| supply.chain.iter().any(|c| wanted(&c.part));
    let parts = has(|p| matches!(p, ChainPart::Meter { .. })) && has(|p| matches!(p, ChainPart::Pipe { .. }));
    let from_tank =
        |p: &&SupplyPoint| matches!(p.curve.from, CurveFrom::Tank { .. }) && !p.chain.0.is_empty();
    let by_flow = |p: &&SupplyPoint| parts || p.curve.falls() || from_tank(p);
    let (pressure, by_zone) = match known {
        Some(point) if !by_flow(&point) && matches!(point.curve.from, CurveFrom::Tank { .. }) => {
            // Its height is known all the same: what not even that serves is told.
            let (_, mut zones) = working_pressure(Some(point), demands);
            zones.retain(|z| z.flow.is_none());
            (unknown(MethodSays::AddPipe), zones)
        }
        Some(point) if !by_flow(&point) => (unknown(MethodSays::ReadRunning), Vec::new()),
        point => working_pressure(point, demands),
    };
    let mut methods = vec![meter, pressure, timed_bucket(supply)];
    if let Some(most) = known.and_then(|p| p.curve.most) {
        methods.push(MethodResult {
            method: DesignFlowMethod::Pump,
            flow: Some(most),
            says: MethodSays::PumpMost,
            rules: vec![FlowRule::Pump { flow: most }],
        });
    }
    if let Some((pressure, flow)) = known.and_then(by_height) {
        methods.push(MethodResult {
            method: DesignFlowMethod::Pump,
            flow: Some(flow),
            says: MethodSays::TankMost,
            rules: vec![FlowRule::Tank { pressure, flow }],
        });
    }
    let of = |wanted: fn(DesignFlowMethod) -> bool| {
        methods
            .iter()
            .filter(|m| wanted(m.method))
            .filter_map(|m| m.flow.map(|f| (m.method, f)))
            .min_by(|a, b| a.1.lpm().total_cmp(&b.1.lpm()))
    };
    use DesignFlowMethod::{MeterAndService, Pump, TimedBucket, WorkingPressure};
    let smallest = of(|m| matches!(m, MeterAndService | Pump)).or_else(|| of(|m| m == WorkingPressure));
    let bucket = of(|m| m == TimedBucket).map(|b| b.1);
    let pin = supply
        .pin
        .and_then(|pin| methods.iter().find(|m| m.method == pin))
        .and_then(|m| m.flow.map(|f| (m.method, f)));
    let chosen = pin.or(smallest);
    let mut design = DesignFlow {
        by_zone,
        by: chosen.map(|c| c.0),
        pinned: pin.is_some(),
        safe: chosen.map(|c| c.1),
        margin: job.rules.flow_margin,
        house: job.rules.house_demand,
        flow: None,
        assumed: None,
        methods,
    };
    design.flow = design.safe.map(|f| design.kept(f));
    design.assumed = match (known, design.flow) {
        (Some(_), None) => Some(match (bucket, &supply.water) {
            // Wide open a tap has no pressure left: half of it is what it gives with something to spare.
            (Some(open), WaterSource::Tap) => assumed(job, supply).min(open * 0.5),
            // A bucket's flow is a lower bound: what the house assumes may not be less.
            (bucket, _) => assumed(job, supply).max(bucket.unwrap_or(Flow::ZERO)),
        }),
        _ => None,
    };
    design
}

/// What the house assumes of a connection of which only a static pressure is known, by the bore of its
/// service line; of one that is not known, the smaller figure.
fn assumed(job: &Job, supply: &Supply) -> Flow {
    let bore = supply.chain.iter().find_map(|c| match &c.part {
        ChainPart::Pipe { pipe, .. } => job.catalogue().pipe(pipe).map(|p| p.inside),
        _ => None,
    });
    let large = bore.is_some_and(|bore| bore >= Length::from_in(LARGE_LINE_IN));
    if large { job.rules.assumed_large } else { job.rules.assumed_small }
}

/// Bore from which a service line counts as one of 1 in: the smallest that is sold as such.
const LARGE_LINE_IN: f64 = 0.95;

/// The three rules for meter and service line; the least flow counts.
fn meter_and_service(job: &Job, supply: &Supply, point: Option<&SupplyPoint>) -> MethodResult {
    let (catalogue, house) = (job.catalogue(), &job.rules);
    let mut rules: Vec<(Flow, MethodSays, FlowRule)> = Vec::new();
    let meter = supply.chain.iter().find_map(|c| match &c.part {
        ChainPart::Meter { size } => catalogue.meter(size),
        _ => None,
    });
    if let (Some(meter), Some(point)) = (meter, point) {
        let static_pressure = point.curve.static_pressure;
        let share = house.meter_loss_share;
        let allowed = static_pressure * share;
        let flow = meter.safe_max * (allowed.psi() / METER_LOSS_AT_MAX_PSI).max(0.0).sqrt();
        let (size, safe_max) = (meter.size.clone(), meter.safe_max);
        let rule = FlowRule::MeterLoss { size, safe_max, share, static_pressure, flow };
        rules.push((flow, MethodSays::MeterLoss, rule));
    }
    if let Some(meter) = meter {
        let share = house.meter_flow_share;
        let flow = meter.safe_max * share;
        let (size, safe_max) = (meter.size.clone(), meter.safe_max);
        let rule = FlowRule::MeterShare { size, safe_max, share, flow };
        rules.push((flow, MethodSays::MeterFlow, rule));
    }
    let lines = supply.chain.iter().filter_map(|c| match &c.part {
        ChainPart::Pipe { pipe, .. } => catalogue.pipe(pipe),
        _ => None,
    });
    for pipe in lines {
        let limit = if pipe.plastic { house.service_plastic } else { house.service_metal };
        let flow = Flow::at_speed(pipe.inside, limit);
        let rule = FlowRule::ServiceVelocity { pipe: pipe.title(), inside: pipe.inside, limit, flow };
        rules.push((flow, MethodSays::ServiceVelocity, rule));
    }
    let least = rules.iter().min_by(|a, b| a.0.lpm().total_cmp(&b.0.lpm()));
    MethodResult {
        method: DesignFlowMethod::MeterAndService,
        flow: least.map(|l| l.0),
        says: least.map_or(MethodSays::AddMeterAndService, |l| l.1.clone()),
        rules: rules.into_iter().map(|r| r.2).collect(),
    }
}

fn unknown(says: MethodSays) -> MethodResult {
    MethodResult { method: DesignFlowMethod::WorkingPressure, flow: None, says, rules: Vec::new() }
}

/// The greatest flow at which a demand is met, at the first aim that one head alone gets.
///
/// The largest q for which the pressure at the end of the chain, p(q), still reaches aim + height +
/// losses(q): bisection on their falling difference, to a millionth of it, up to 5,000 gpm; never less than
/// one head's flow. Pressures in any unit, heights of either sign.
///
/// None where not even one head gets the bottom of its band.
///
/// # Source
/// Practice of installers ("flow at working pressure"), its aims as house rules: nominal less a tenth, the
/// bottom of the band and 3 psi, the bottom.
///
/// # Example
/// 54 psi, 60.5 ft of 1 in copper and a 3/4 in meter; two rotors of 3 gpm whose lateral costs 0.47 psi and
/// whose valve costs 1.5: 40.5 psi and those are left at 18.6 gpm (a test holds it).
pub fn most_for(point: &SupplyPoint, demand: &PressureDemand) -> Option<(Aim, Flow)> {
    let one = demand.one_head;
    let aim = Aim::ALL.into_iter().find(|aim| point.at_connection(one) >= demand.wants_for_one(*aim))?;
    let left = |q: Flow| point.at_connection(q) - demand.wants(aim, q);
    let (mut low, mut high) = (Flow::ZERO, Flow::from_gpm(1.0));
    while left(high) > Pressure::ZERO && high.gpm() < 5_000.0 {
        high = high * 2.0;
    }
    for _ in 0..60 {
        let middle = (low + high) / 2.0;
        if left(middle) > Pressure::ZERO { low = middle } else { high = middle }
    }
    Some((aim, low.max(one)))
}

/// The flow at working pressure of every zone, and of the neediest as the method's figure. A zone of
/// which not one head can work is told; it doesn't bring the others to nothing.
fn working_pressure(
    point: Option<&SupplyPoint>,
    demands: &[PressureDemand],
) -> (MethodResult, Vec<ZoneFlow>) {
    let Some(point) = point else {
        return (unknown(MethodSays::EnterStatic), Vec::new());
    };
    let found: Vec<(&PressureDemand, Option<(Aim, Flow)>)> =
        demands.iter().map(|d| (d, most_for(point, d))).collect();
    let missing = |d: &PressureDemand| d.wants_for_one(Aim::AtLimit) - point.at_connection(d.one_head);
    let by_zone = found
        .iter()
        .map(|(d, m)| {
            let aim = m.map_or(Aim::AtLimit, |m| m.0);
            ZoneFlow {
                valve: d.valve.clone(),
                flow: m.map(|m| m.1),
                aim,
                wanted: aim.pressure(d.band),
                missing: m.is_none().then(|| missing(d)),
            }
        })
        .collect();
    let served = found.iter().filter_map(|(d, m)| Some((*d, (*m)?)));
    let neediest = served.min_by(|a, b| a.1.1.lpm().total_cmp(&b.1.1.lpm()));
    let Some((demand, (aim, flow))) = neediest else {
        let says = demands
            .first()
            .map_or(MethodSays::EnterHeads, |d| MethodSays::CantServe(d.of.clone(), missing(d)));
        return (unknown(says), by_zone);
    };
    let arrives =
        FlowRule::Arrives { demand: demand.clone(), aim, at_connection: point.at_connection(flow), flow };
    let result = MethodResult {
        method: DesignFlowMethod::WorkingPressure,
        flow: Some(flow),
        says: MethodSays::Wants(demand.of.clone(), demand.wants(aim, flow), aim),
        rules: vec![FlowRule::Demand(demand.clone(), aim), arrives],
    };
    (result, by_zone)
}

fn timed_bucket(supply: &Supply) -> MethodResult {
    let method = DesignFlowMethod::TimedBucket;
    let timed = supply.readings.iter().filter_map(|r| match r.kind {
        ReadingKind::Bucket { volume, time } => Some((volume, time, filled(volume, time))),
        _ => None,
    });
    let says = match supply.water {
        WaterSource::Tap => MethodSays::OpenTap,
        _ => MethodSays::LowerBound,
    };
    match timed.max_by(|a, b| a.2.lpm().total_cmp(&b.2.lpm())) {
        None => MethodResult { method, flow: None, says: MethodSays::NoBucket, rules: Vec::new() },
        Some((volume, time, flow)) => MethodResult {
            method,
            flow: Some(flow),
            says,
            rules: vec![FlowRule::Bucket { volume, time, flow }],
        },
    }
}

/// No tank gives more by its height, gpm: where the search for its flow begins.
const MOST_BY_HEIGHT_GPM: f64 = 400.0;

/// The pressure of a tank's height and the flow at which nothing of it is left at the valves; none for other water,
/// and for a tank without any part that costs.
fn by_height(point: &SupplyPoint) -> Option<(Pressure, Flow)> {
    let CurveFrom::Tank { .. } = point.curve.from else {
        return None;
    };
    let (mut low, mut high) = (Flow::ZERO, Flow::from_gpm(MOST_BY_HEIGHT_GPM));
    if point.at_connection(high) > Pressure::ZERO {
        return None;
    }
    for _ in 0..60 {
        let middle = (low + high) * 0.5;
        if point.at_connection(middle) > Pressure::ZERO {
            low = middle;
        } else {
            high = middle;
        }
    }
    Some((point.curve.static_pressure, low))
}
