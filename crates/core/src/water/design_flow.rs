use super::{SupplyCurve, supply_curve};
use crate::catalogue::Catalogue;
use crate::network::LinkKind;
use crate::plan::{ChainPart, HouseRules, Plan, ReadingKind, School, Supply};
use crate::units::{Flow, Length, Pressure, UnitSystem};
use crate::working::Working;
use crate::zone::chain_links;

/// What one school says.
#[derive(Debug, Clone, PartialEq)]
pub struct SchoolResult {
    /// The school.
    pub school: School,
    /// Its flow before the margin; `None` with the reason in `says`.
    pub flow: Option<Flow>,
    /// What limits it, or what is missing.
    pub says: String,
    /// The arithmetic, one for each rule of the school.
    pub workings: Vec<Working>,
}

/// The flow that a valve may take.
#[derive(Debug, Clone, PartialEq)]
pub struct DesignFlow {
    /// Every school, whether it applies or not.
    pub schools: Vec<SchoolResult>,
    /// The school gone by.
    pub by: Option<School>,
    /// True if the user pinned it.
    pub pinned: bool,
    /// After the margin; `None` while nothing is known.
    pub flow: Option<Flow>,
    /// The arithmetic of the last step.
    pub working: Working,
}

/// What the neediest zone wants at the end of the shared chain: pressure at no flow in its own
/// lateral, and what its mainline and valve cost at a flow.
#[derive(Debug, Clone, PartialEq)]
pub struct Want {
    /// The zone, for people.
    pub zone: String,
    /// Nozzle pressure, height and the allowed lateral loss.
    pub fixed: Pressure,
    /// Mainline and valve.
    pub links: Vec<LinkKind>,
    /// The parts of `fixed`.
    pub working: Working,
}

/// Design flow of a point of connection by every school; the smallest, or the pinned one, counts.
pub fn design_flow(plan: &Plan, supply: &Supply, wants: &[Want], catalogue: &Catalogue) -> DesignFlow {
    let units = plan.units;
    let curve = supply_curve(supply, units);
    let mut schools = vec![
        meter_and_service(supply, curve.as_ref().ok(), &plan.rules, units, catalogue),
        working_pressure(plan, supply, curve.as_ref().ok(), wants, catalogue),
        timed_bucket(supply, units),
    ];
    if let Ok(SupplyCurve { most: Some(most), .. }) = &curve {
        schools.push(SchoolResult {
            school: School::Pump,
            flow: Some(*most),
            says: "the most that the pump gives for long".into(),
            workings: vec![
                Working::new(
                    "the last point of the pump's curve, or what the well pump gives",
                    "the pump's own figures",
                )
                .gives(most.show(units)),
            ],
        });
    }
    let smallest = schools
        .iter()
        .filter_map(|s| s.flow.map(|f| (s.school, f)))
        .min_by(|a, b| a.1.lpm().total_cmp(&b.1.lpm()));
    let pin = supply
        .pin
        .and_then(|p| schools.iter().find(|s| s.school == p))
        .and_then(|s| s.flow.map(|f| (s.school, f)));
    let chosen = pin.or(smallest);
    let margin = plan.rules.flow_margin;
    let flow = chosen.map(|(_, f)| f * (1.0 - margin));
    let working = Working::new(
        "design flow = safe flow × (1 − margin)",
        "house rule: margin for ageing and for the house",
    )
    .with(
        "safe flow",
        chosen.map_or_else(|| "not known yet".into(), |(_, f)| f.show(units)),
    )
    .with("margin", format!("{:.0} %", margin * 100.0))
    .gives(flow.map_or_else(|| "not known yet".into(), |f| f.show(units)));
    DesignFlow {
        by: chosen.map(|c| c.0),
        pinned: pin.is_some(),
        flow,
        schools,
        working,
    }
}

fn meter_and_service(
    supply: &Supply,
    curve: Option<&SupplyCurve>,
    rules: &HouseRules,
    units: UnitSystem,
    catalogue: &Catalogue,
) -> SchoolResult {
    let mut workings = Vec::new();
    let mut limits: Vec<(Flow, &str)> = Vec::new();
    let meter = supply.chain.iter().find_map(|c| match &c.part {
        ChainPart::Meter { size } => catalogue.meter(size),
        _ => None,
    });
    if let (Some(meter), Some(curve)) = (meter, curve) {
        let allowed = curve.static_pressure * rules.meter_loss_share;
        let flow = meter.safe_max * (allowed.psi() / 15.0).max(0.0).sqrt();
        limits.push((flow, "the pressure that the meter may cost"));
        workings.push(
            Working::new(
                "Q = Qmax · √(allowed loss / 15 psi)",
                "AWWA C700; house rule for the share of static",
            )
            .with(
                "meter, Qmax",
                format!("{}, {}", meter.size, meter.safe_max.show(units)),
            )
            .with(
                "allowed loss",
                format!(
                    "{:.0} % of {} = {}",
                    rules.meter_loss_share * 100.0,
                    curve.static_pressure.show(units),
                    allowed.show(units)
                ),
            )
            .gives(flow.show(units)),
        );
    }
    if let Some(meter) = meter {
        let flow = meter.safe_max * rules.meter_flow_share;
        limits.push((flow, "the meter's safe flow"));
        workings.push(
            Working::new("Q = share · Qmax", "AWWA C700; house rule for the share")
                .with(
                    "meter, Qmax",
                    format!("{}, {}", meter.size, meter.safe_max.show(units)),
                )
                .with("share", format!("{:.0} %", rules.meter_flow_share * 100.0))
                .gives(flow.show(units)),
        );
    }
    let lines = supply.chain.iter().filter_map(|c| match &c.part {
        ChainPart::Pipe { pipe, .. } => catalogue.pipe(pipe),
        _ => None,
    });
    for pipe in lines {
        let limit = if pipe.plastic {
            rules.service_plastic
        } else {
            rules.service_metal
        };
        let area = std::f64::consts::PI * pipe.inside.m().powi(2) / 4.0;
        let flow = Flow::from_lpm(limit.mps() * area * 60_000.0);
        limits.push((flow, "the velocity in the service line"));
        workings.push(
            Working::new("Q = v · π d² / 4", "house rule for the velocity limit")
                .with(
                    "pipe, inside",
                    format!("{}, {}", pipe.title(), pipe.inside.show_bore(units)),
                )
                .with("v", limit.show(units))
                .gives(flow.show(units)),
        );
    }
    let least = limits.into_iter().min_by(|a, b| a.0.lpm().total_cmp(&b.0.lpm()));
    SchoolResult {
        school: School::MeterAndService,
        flow: least.map(|l| l.0),
        says: least.map_or_else(
            || "add the meter and the service line to the chain".to_owned(),
            |l| format!("limited by {}", l.1),
        ),
        workings,
    }
}

/// Finds the greatest flow at which every want is still met, by bisection on a falling difference.
fn working_pressure(
    plan: &Plan,
    supply: &Supply,
    curve: Option<&SupplyCurve>,
    wants: &[Want],
    catalogue: &Catalogue,
) -> SchoolResult {
    let school = School::WorkingPressure;
    let none = |says: &str| SchoolResult {
        school,
        flow: None,
        says: says.to_owned(),
        workings: Vec::new(),
    };
    let Some(curve) = curve else {
        return none("enter the static pressure");
    };
    if wants.is_empty() {
        return none("enter the heads first: what they want decides");
    }
    let units = plan.units;
    let links = chain_links(plan, supply, catalogue);
    let at_connection = |q: Flow| {
        let mut p = curve.pressure_at(q);
        for (kind, rise) in &links {
            p = p - cost(kind, q) - Pressure::of_height(*rise);
            if let LinkKind::Regulator { set, .. } = kind {
                p = p.min(*set);
            }
        }
        p
    };
    let left = |want: &Want, q: Flow| {
        at_connection(q) - want.fixed - want.links.iter().map(|l| cost(l, q)).sum::<Pressure>()
    };
    let most = |want: &Want| {
        let (mut low, mut high) = (Flow::ZERO, Flow::from_gpm(1.0));
        if left(want, low) < Pressure::ZERO {
            return Flow::ZERO;
        }
        while left(want, high) > Pressure::ZERO && high.gpm() < 5_000.0 {
            high = high * 2.0;
        }
        for _ in 0..60 {
            let middle = (low + high) / 2.0;
            if left(want, middle) > Pressure::ZERO {
                low = middle
            } else {
                high = middle
            }
        }
        low
    };
    let worst = wants
        .iter()
        .map(|w| (w, most(w)))
        .min_by(|a, b| a.1.lpm().total_cmp(&b.1.lpm()));
    let Some((want, flow)) = worst else {
        return none("enter the heads first");
    };
    let own: Pressure = want.links.iter().map(|l| cost(l, flow)).sum();
    let says = if flow == Flow::ZERO {
        format!("even with nothing running {} can't be served", want.zone)
    } else {
        format!("{} wants {} there", want.zone, (want.fixed + own).show(units))
    };
    let working = Working::new(
        "the flow at which the supply curve, less the chain, still gives what the neediest zone wants",
        "physics; the lateral's share is a house rule",
    )
    .with("neediest", want.zone.clone())
    .with("it wants behind its valve", want.fixed.show(units))
    .with("its mainline and valve cost", own.show(units))
    .with("at the connection there is", at_connection(flow).show(units))
    .gives(flow.show(units));
    SchoolResult {
        school,
        flow: Some(flow),
        says,
        workings: vec![want.working.clone(), working],
    }
}

fn cost(kind: &LinkKind, q: Flow) -> Pressure {
    match kind {
        LinkKind::Pipe {
            length,
            inside,
            roughness_c,
            ..
        } => crate::network::hazen_williams(q, *length, *inside, *roughness_c),
        LinkKind::Device(loss) | LinkKind::Regulator { loss, .. } => loss.at(q),
    }
}

fn timed_bucket(supply: &Supply, units: UnitSystem) -> SchoolResult {
    let best = supply
        .readings
        .iter()
        .filter_map(|r| match r.kind {
            ReadingKind::Bucket { volume, time } => {
                Some((volume, time, Flow::from_lpm(volume.litres() / time.minutes())))
            }
            _ => None,
        })
        .max_by(|a, b| a.2.lpm().total_cmp(&b.2.lpm()));
    match best {
        None => SchoolResult {
            school: School::TimedBucket,
            flow: None,
            says: "no bucket timed".into(),
            workings: Vec::new(),
        },
        Some((volume, time, flow)) => SchoolResult {
            school: School::TimedBucket,
            flow: Some(flow),
            says: "a lower bound: the bib itself holds back; pin another school if the connection is larger"
                .into(),
            workings: vec![
                Working::new("Q = volume / time", "measured")
                    .with("volume", volume.show(units))
                    .with("time", time.show(units))
                    .gives(flow.show(units)),
            ],
        },
    }
}

impl Want {
    /// What heads want behind their valve: nominal pressure, the rise, and the share of nominal
    /// that the lateral may cost.
    pub fn of_heads(
        zone: String,
        nominal: Pressure,
        rise: Length,
        spread: f64,
        units: UnitSystem,
        links: Vec<LinkKind>,
    ) -> Self {
        let climb = Pressure::of_height(rise.max(Length::ZERO));
        let lateral = nominal * spread;
        let fixed = nominal + climb + lateral;
        let working = Working::new(
            "wanted behind the valve = nozzle + rise + allowed lateral loss",
            "physics; house rule for the lateral",
        )
        .with("nozzle at its best", nominal.show(units))
        .with("rise", format!("{} = {}", rise.show(units), climb.show(units)))
        .with(
            "lateral",
            format!("{:.0} % of nozzle = {}", spread * 100.0, lateral.show(units)),
        )
        .gives(fixed.show(units));
        Self {
            zone,
            fixed,
            links,
            working,
        }
    }
}
