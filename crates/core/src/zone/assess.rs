use super::build::{Step, ZoneModel, regulator_model, zone_model};
use crate::catalogue::Catalogue;
use crate::network::{LinkState, Solution, SolveError, solve};
use crate::plan::{ChainPart, HeadRef, Plan, Regulation, Supply, Valve};
use crate::units::{Flow, Length, Pressure, Rate, Speed, UnitSystem};
use crate::water::CurveFault;
use crate::working::Working;

/// A head with water running.
#[derive(Debug, Clone, PartialEq)]
pub struct HeadResult {
    /// Which.
    pub head: HeadRef,
    /// Degrees.
    pub arc: u16,
    /// Pressure at its inlet.
    pub inlet: Pressure,
    /// Pressure at its nozzle (lowest emitter of a drip row).
    pub nozzle: Pressure,
    /// What it gives.
    pub flow: Flow,
    /// What it would give at nominal pressure.
    pub nominal_flow: Flow,
    /// Nominal, least and greatest usable pressure of its kind.
    pub band: (Pressure, Pressure, Pressure),
    /// Depth it applies over the area it is to water.
    pub rate: Rate,
}

/// A step of the pressure walk.
#[derive(Debug, Clone, PartialEq)]
pub struct WalkStep {
    /// For people.
    pub label: String,
    /// What it costs; negative where the water gains (downhill).
    pub cost: Pressure,
    /// What is left behind it.
    pub left: Pressure,
    /// Said of it: a regulator's state, a pipe's velocity.
    pub note: String,
}

/// The zone's regulator with water running.
#[derive(Debug, Clone, PartialEq)]
pub struct RegulatorResult {
    /// Its set point.
    pub set: Pressure,
    /// Pressure at its inlet (at the worst body, for bodies).
    pub inlet: Pressure,
    /// What it has over its set point.
    pub room: Pressure,
    /// Its state; bodies: active if every one holds.
    pub state: LinkState,
    /// The flow it is made for.
    pub flow_band: Option<(Flow, Flow)>,
    /// For people.
    pub label: String,
}

/// All that is known of a zone with water running.
#[derive(Debug, Clone, PartialEq)]
pub struct ZoneAssessment {
    /// Valve id.
    pub valve: String,
    /// Heads, in the order of the groups.
    pub heads: Vec<HeadResult>,
    /// Water taken.
    pub flow: Flow,
    /// What it would take with every head at nominal.
    pub nominal_flow: Flow,
    /// Place in `heads` of the head furthest below its kind's nominal, and of that furthest above.
    pub worst: usize,
    /// See `worst`.
    pub best: usize,
    /// (highest - lowest) / nominal.
    pub spread: f64,
    /// Mean rate over the area.
    pub rate: Rate,
    /// Highest rate of a group over the lowest.
    pub rate_ratio: f64,
    /// Fastest pipe behind the valve, and its inside diameter.
    pub velocity: Speed,
    /// In the first leg rather than further on.
    pub fastest_first_leg: bool,
    /// From the street to the worst head.
    pub walk: Vec<WalkStep>,
    /// At the end of the shared chain.
    pub at_connection: Pressure,
    /// Before the valve.
    pub valve_inlet: Pressure,
    /// Before the lateral.
    pub lateral_inlet: Pressure,
    /// With a flow of nothing: what a closed end or a shut valve downstream sees.
    pub dead_end: Pressure,
    /// The zone's regulator.
    pub regulator: Option<RegulatorResult>,
    /// Highest head above the valve outlet.
    pub height_range: Length,
    /// Newton steps.
    pub iterations: usize,
    /// Largest imbalance left by the solver.
    pub residual: Flow,
}

/// Why a zone has no figures.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum ZoneFault {
    /// The water is not known.
    #[error(transparent)]
    Water(#[from] CurveFault),
    /// No balance.
    #[error(transparent)]
    Solve(#[from] SolveError),
    /// No heads.
    #[error("no heads on this valve yet: move some here or remove it")]
    Empty,
}

impl ZoneAssessment {
    /// The worst head.
    pub fn lowest(&self) -> &HeadResult {
        &self.heads[self.worst]
    }
    /// How the figures of a zone come about, each with its name.
    pub fn workings(&self, units: UnitSystem) -> Vec<(&'static str, Working)> {
        let (low, high) = (self.lowest(), self.highest());
        let area = self.flow.lpm() * 60.0 / self.rate.mmph().max(1e-9);
        let area = crate::units::Surface::from_m2(area).show(units);
        vec![
            (
                "Flow",
                Working::new(
                    "Σ q₀·(p/p₀)^x over the heads, at the pressure each gets",
                    "orifice flow; network solved",
                )
                .with("heads", self.heads.len().to_string())
                .with("Σ at nominal pressure", self.nominal_flow.show(units))
                .gives(self.flow.show(units)),
            ),
            (
                "Pressure",
                Working::new(
                    "static less every step of the pressure walk",
                    "Hazen and Williams 1905; 0.433 psi/ft (9.81 kPa/m)",
                )
                .with(
                    "lowest, highest head",
                    format!("{}, {}", low.nozzle.show(units), high.nozzle.show(units)),
                )
                .with("before the lateral", self.lateral_inlet.show(units))
                .gives(low.nozzle.show(units)),
            ),
            (
                "Rate",
                Working::new(
                    "flow / area to be watered (mm/h = 60·L/min / m²; in/h = 96.25·gpm / ft²)",
                    "definition of precipitation rate",
                )
                .with("flow", self.flow.show(units))
                .with("area, from spacing and arcs", area)
                .gives(self.rate.show(units)),
            ),
            (
                "Spread",
                Working::new("(highest − lowest) / nominal", "house rule for the limit")
                    .with(
                        "highest, lowest",
                        format!("{}, {}", high.nozzle.show(units), low.nozzle.show(units)),
                    )
                    .with("nominal", low.band.0.show(units))
                    .gives(format!("{:.0} %", self.spread * 100.0)),
            ),
        ]
    }
    /// How the figures of one head come about; `at` is its place in `heads`.
    pub fn head_workings(&self, at: usize, plan: &Plan) -> Vec<(&'static str, Working)> {
        let catalogue = plan.catalogue();
        let units = plan.units;
        let Some(head) = self.heads.get(at) else {
            return Vec::new();
        };
        let Some((group, nozzle)) = plan
            .group(&head.head.group)
            .and_then(|g| Some((g, catalogue.nozzle(&g.nozzle)?)))
        else {
            return Vec::new();
        };
        let kind = catalogue.kind(nozzle.kind);
        let lateral = head.inlet - self.lateral_inlet;
        let body = head.inlet - head.nozzle;
        let mut pressure = Working::new(
            "before the lateral − friction and height of the legs to this head − its body regulator",
            "network solved; Hazen and Williams 1905; 0.433 psi/ft (9.81 kPa/m)",
        )
        .with("before the lateral", self.lateral_inlet.show(units))
        .with("legs and height", lateral.show(units));
        if body.kpa() > 0.01 {
            pressure = pressure.with("body regulator", format!("−{}", body.show(units)));
        }
        let mut all = vec![(
            "Pressure",
            pressure
                .with(
                    "best, usable",
                    format!(
                        "{}, {} to {}",
                        head.band.0.show(units),
                        head.band.1.show(units),
                        head.band.2.show(units)
                    ),
                )
                .gives(head.nozzle.show(units)),
        )];
        let flow = if kind.exponent == 0.0 {
            Working::new(
                "the same at any pressure in its range (pressure-compensating)",
                "typical of the class",
            )
            .with("arc", format!("{}°", head.arc))
        } else {
            Working::new("q₀·(p/p₀)^x", "orifice flow; chart figures typical of the class")
                .with("q₀ for its arc", head.nominal_flow.show(units))
                .with(
                    "p, p₀",
                    format!("{}, {}", head.nozzle.show(units), head.band.0.show(units)),
                )
                .with("x", format!("{}", kind.exponent))
        };
        all.push(("Flow", flow.gives(head.flow.show(units))));
        let drawn = group
            .drawn
            .get((head.head.index as usize).wrapping_sub(group.count() as usize - group.drawn.len()));
        let turned = drawn.and_then(|d| d.radius);
        if let (Some(full), Some(throw)) = (nozzle.radius, nozzle.throw(kind, head.nozzle, turned)) {
            let working = Working::new(
                "R₀·(p/p₀)^0.3 below nominal; at most 3 % more above it, where the stream breaks up",
                "usual practice for the class",
            )
            .with("R₀", full.show(units))
            .with(
                "turned down to",
                turned.map_or_else(|| "not".to_owned(), |r| r.show(units)),
            )
            .with(
                "p, p₀",
                format!("{}, {}", head.nozzle.show(units), head.band.0.show(units)),
            );
            all.push(("Throw", working.gives(throw.show(units))));
        }
        all.push((
            "Rate",
            Working::new(
                "flow / area it is to water (mm/h = 60·L/min / m²; in/h = 96.25·gpm / ft²)",
                "definition of precipitation rate",
            )
            .with("flow", head.flow.show(units))
            .with(
                "area",
                crate::units::Surface::from_m2(head.flow.lpm() * 60.0 / head.rate.mmph().max(1e-9))
                    .show(units),
            )
            .gives(head.rate.show(units)),
        ));
        all
    }
    /// How the velocity comes about.
    pub fn velocity_working(&self, plan: &Plan) -> Working {
        let units = plan.units;
        Working::new(
            "v = Q / (π·d²/4) in the fastest pipe behind the shared chain",
            "continuity; limits are house rules",
        )
        .with(
            "where",
            if self.fastest_first_leg {
                "first leg"
            } else {
                "a later leg or the mainline"
            },
        )
        .with("zone flow", self.flow.show(units))
        .with(
            "watch from, stop from",
            format!(
                "{}, {}",
                plan.rules.velocity_watch.show(units),
                plan.rules.velocity_stop.show(units)
            ),
        )
        .gives(self.velocity.show(units))
    }
    /// The head with most pressure for its kind.
    pub fn highest(&self) -> &HeadResult {
        &self.heads[self.best]
    }
}

/// Solves a zone and reads the figures off.
///
/// # Errors
/// [`ZoneFault`].
pub fn assess_zone(plan: &Plan, valve: &Valve, catalogue: &Catalogue) -> Result<ZoneAssessment, ZoneFault> {
    let catalogue = plan.with_own(catalogue);
    let model = zone_model(plan, valve, catalogue)?;
    if model.heads.is_empty() {
        return Err(ZoneFault::Empty);
    }
    let solution = solve(&model.network)?;
    let heads: Vec<HeadResult> = model
        .heads
        .iter()
        .map(|h| {
            let results = &solution.emitters[h.emitters.clone()];
            let low = |f: fn(&crate::network::EmitterResult) -> Pressure| {
                results.iter().map(f).reduce(Pressure::min).unwrap_or_default()
            };
            let flow: Flow = results.iter().map(|r| r.flow).sum();
            HeadResult {
                head: h.head.clone(),
                arc: h.arc,
                inlet: low(|r| r.inlet),
                nozzle: low(|r| r.nozzle),
                flow,
                nominal_flow: nominal_flow(h, plan),
                band: (h.kind.nominal, h.kind.low, h.kind.high),
                rate: Rate::from_mmph(flow.lpm() * 60.0 / h.area_m2.max(1e-6)),
            }
        })
        .collect();
    let share = |i: usize| heads[i].nozzle / heads[i].band.0;
    let order = |a: &usize, b: &usize| share(*a).total_cmp(&share(*b));
    let worst = (0..heads.len()).min_by(order).unwrap_or(0);
    let best = (0..heads.len()).max_by(order).unwrap_or(0);
    let area: f64 = model.heads.iter().map(|h| h.area_m2).sum();
    let flow: Flow = heads.iter().map(|h| h.flow).sum();
    let rate = Rate::from_mmph(flow.lpm() * 60.0 / area.max(1e-6));
    let pipes = || {
        model
            .steps
            .iter()
            .zip(&solution.links)
            .filter_map(|(step, link)| {
                let lateral = matches!(step, Step::FirstLeg | Step::Lateral | Step::Mainline);
                link.velocity
                    .filter(|_| lateral)
                    .map(|v| (step, Speed::from_mps(v.mps().abs())))
            })
    };
    let velocity = pipes().map(|p| p.1).fold(Speed::ZERO, Speed::max);
    let fastest_first_leg = pipes().any(|(s, v)| v == velocity && *s == Step::FirstLeg);
    let node_of = |link: usize| (model.network.links[link].from, model.network.links[link].to);
    let outlet = model
        .regulator_link
        .map_or_else(|| last_part(&model), |l| node_of(l).1);
    let heights = model
        .heads
        .iter()
        .map(|h| model.network.nodes[model.network.emitters[h.emitters.start].node].elevation);
    let (low, high) = heights.fold((f64::MAX, f64::MIN), |(a, b), e| (a.min(e.m()), b.max(e.m())));
    let valve_node = node_of(model.valve_link).0;
    let valve_height = Pressure::of_height(model.network.nodes[valve_node].elevation);
    Ok(ZoneAssessment {
        valve: valve.id.clone(),
        nominal_flow: heads.iter().map(|h| h.nominal_flow).sum(),
        spread: (heads[best].nozzle - heads[worst].nozzle) / heads[worst].band.0,
        rate,
        rate_ratio: rate_ratio(&model, &heads),
        velocity,
        fastest_first_leg,
        walk: walk(plan, valve, &model, &solution, worst, &heads),
        at_connection: solution.pressures[model.connection],
        valve_inlet: solution.pressures[valve_node],
        lateral_inlet: solution.pressures[outlet],
        dead_end: regulated_static(plan, valve, model.static_pressure) - valve_height,
        regulator: regulator_result(plan, valve, &model, &solution, &heads, catalogue),
        height_range: Length::from_m(high - low),
        iterations: solution.iterations,
        residual: solution.residual.mass,
        flow,
        worst,
        best,
        heads,
    })
}

fn nominal_flow(h: &super::Head<'_>, plan: &Plan) -> Flow {
    let emitters = plan
        .group(&h.head.group)
        .and_then(|g| g.row)
        .map_or(1, |r| r.emitters);
    h.nozzle.flow_for_arc(h.arc) * f64::from(emitters)
}

/// What arrives at the valve with nothing running: a system regulator holds there too.
fn regulated_static(plan: &Plan, valve: &Valve, static_pressure: Pressure) -> Pressure {
    let sets = plan
        .supply(&valve.supply)
        .into_iter()
        .flat_map(|s| &s.chain)
        .filter_map(|c| match c.part {
            ChainPart::Regulator { set } => Some(set),
            _ => None,
        });
    sets.fold(static_pressure, Pressure::min)
}

/// Node behind the last part before the laterals.
fn last_part(model: &ZoneModel<'_>) -> usize {
    model
        .steps
        .iter()
        .zip(&model.network.links)
        .filter(|(s, _)| !matches!(s, Step::FirstLeg | Step::Lateral))
        .map(|(_, l)| l.to)
        .next_back()
        .unwrap_or(0)
}

/// Rates are compared group by group: within one the arcs are matched.
fn rate_ratio(model: &ZoneModel<'_>, heads: &[HeadResult]) -> f64 {
    let mut rates: Vec<(&str, f64, f64)> = Vec::new();
    for (h, r) in model.heads.iter().zip(heads) {
        match rates.iter_mut().find(|(g, _, _)| *g == h.head.group) {
            Some((_, q, a)) => {
                *q += r.nominal_flow.lpm();
                *a += h.area_m2;
            }
            None => rates.push((&h.head.group, r.nominal_flow.lpm(), h.area_m2)),
        }
    }
    let rate = |&(_, q, a): &(&str, f64, f64)| q / a.max(1e-9);
    let (low, high) = rates
        .iter()
        .map(rate)
        .fold((f64::MAX, 0.0f64), |(a, b), r| (a.min(r), b.max(r)));
    high / low.max(1e-9)
}

fn regulator_result(
    plan: &Plan,
    valve: &Valve,
    model: &ZoneModel<'_>,
    solution: &Solution,
    heads: &[HeadResult],
    catalogue: &Catalogue,
) -> Option<RegulatorResult> {
    if let Regulation::Body { set } = valve.regulation {
        let inlet = heads.iter().map(|h| h.inlet).reduce(Pressure::min)?;
        let state = if inlet >= set {
            LinkState::Active
        } else {
            LinkState::Open
        };
        let label = format!("Bodies at {}", set.show_round(plan.units));
        return Some(RegulatorResult {
            set,
            inlet,
            room: inlet - set,
            state,
            flow_band: None,
            label,
        });
    }
    let link = model.regulator_link?;
    let nominal = heads.iter().map(|h| h.nominal_flow).sum();
    let (set, device) = regulator_model(valve.regulation, nominal, catalogue)?;
    let inlet = solution.pressures[model.network.links[link].from];
    Some(RegulatorResult {
        set,
        inlet,
        room: inlet - set,
        state: solution.links[link].state,
        flow_band: Some(device.flow_band),
        label: device.label.clone(),
    })
}

/// Every step from the source to a head: friction part by part, the height as one step.
fn walk(
    plan: &Plan,
    valve: &Valve,
    model: &ZoneModel<'_>,
    solution: &Solution,
    head: usize,
    heads: &[HeadResult],
) -> Vec<WalkStep> {
    let net = &model.network;
    let units = plan.units;
    // The network is laid as a tree: every node but the first has one link to it.
    let mut path = Vec::new();
    let lowest = model.heads[head].emitters.clone().min_by(|a, b| {
        solution.emitters[*a]
            .nozzle
            .kpa()
            .total_cmp(&solution.emitters[*b].nozzle.kpa())
    });
    let mut node = net.emitters[lowest.unwrap_or(0)].node;
    let end = node;
    while let Some(link) = net.links.iter().position(|l| l.to == node) {
        path.push(link);
        node = net.links[link].from;
    }
    path.reverse();
    let mut steps: Vec<WalkStep> = Vec::new();
    let mut left = model.static_pressure;
    let mut push = |label: String, cost: Pressure, note: String| {
        left = left - cost;
        steps.push(WalkStep {
            label,
            cost,
            left,
            note,
        });
    };
    push("Static".into(), Pressure::ZERO, String::new());
    let source_drop = model.static_pressure - solution.pressures[net.sources[0].node];
    if source_drop.kpa() > 0.01 {
        push(
            "Supply to the gauge".into(),
            source_drop,
            "from the readings with water running".into(),
        );
    }
    let supply = plan.supply(&valve.supply);
    let mut laterals = (0usize, Pressure::ZERO);
    for &link in &path {
        let (l, r) = (&net.links[link], &solution.links[link]);
        // drop is friction: the height is taken out and shown as a step of its own.
        let friction = r.drop;
        let speed = r.velocity.map_or_else(String::new, |v| v.show(units));
        match &model.steps[link] {
            Step::Chain(place) => {
                push(
                    supply.map_or_else(String::new, |s| chain_label(s, *place)),
                    friction,
                    speed,
                );
            }
            Step::Mainline => push("Mainline".into(), friction, speed),
            Step::Valve => push("Valve".into(), friction, String::new()),
            Step::Filter => push("Filter, clean".into(), friction, String::new()),
            Step::Regulator => push("Regulator".into(), friction, state_word(r.state).into()),
            Step::FirstLeg => push("First leg".into(), friction, speed),
            Step::Lateral => {
                laterals.0 += 1;
                laterals.1 = laterals.1 + friction;
            }
        }
        debug_assert!(l.to != 0);
    }
    if laterals.0 > 0 {
        push(
            format!("{} leg{}", laterals.0, if laterals.0 == 1 { "" } else { "s" }),
            laterals.1,
            String::new(),
        );
    }
    let rise = Pressure::of_height(net.nodes[end].elevation - net.nodes[0].elevation);
    if rise.kpa().abs() > 0.05 {
        push(
            "Height".into(),
            rise,
            (net.nodes[end].elevation - net.nodes[0].elevation).show(units),
        );
    }
    if let Regulation::Body { .. } = valve.regulation {
        let r = &heads[head];
        push(
            "Body regulator".into(),
            r.inlet - r.nozzle,
            if r.inlet > r.nozzle { "holds" } else { "passes all" }.into(),
        );
    }
    steps
}

fn state_word(state: LinkState) -> &'static str {
    match state {
        LinkState::Active => "holds",
        LinkState::Open => "wide open",
        LinkState::Closed => "closed",
    }
}

/// A part of the chain in a word or two.
fn chain_label(supply: &Supply, place: usize) -> String {
    match &supply.chain[place].part {
        // Up to the meter or backflow device it is the supplier's line, behind it the installer's.
        ChainPart::Pipe { .. }
            if supply.chain[..place]
                .iter()
                .all(|c| matches!(c.part, ChainPart::Pipe { .. })) =>
        {
            "Service line".into()
        }
        ChainPart::Pipe { .. } => "Shared main".into(),
        ChainPart::Meter { size } => format!("Meter {}", size.replace("in", " in").replace('-', " ")),
        ChainPart::Device { model } => {
            let label = Catalogue::builtin()
                .device(model)
                .map_or(model.as_str(), |d| &d.label);
            let words = label.trim_end_matches(" 1 in").trim_end_matches(" 3/4 in");
            words
                .replace("Pressure vacuum", "Vacuum")
                .replace("Reduced-pressure assembly", "Reduced pressure")
                .replace("Isolation ball", "Ball")
                .replace(" assembly", "")
        }
        ChainPart::Regulator { .. } => "System regulator".into(),
    }
}
