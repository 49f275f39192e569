use crate::working::{Working, percent};
use fenlo_core::catalogue::METER_LOSS_AT_MAX_PSI;
use fenlo_core::network::SourceLaw;
use fenlo_core::units::{Length, Pressure, UnitSystem};
use fenlo_core::water::{
    Aim, CurveFault, CurveFrom, DemandOf, DesignFlow, FlowRule, FlowTest, Losses, MethodSays, PressureDemand,
    SupplyCurve,
};

/// Why readings make no curve, and what to do.
pub fn curve_fault(fault: &CurveFault, u: UnitSystem) -> String {
    match fault {
        CurveFault::NoStatic => {
            "no static pressure yet: read a gauge on a hose bib with all water shut off and enter the reading"
                .into()
        }
        CurveFault::Rises { flow, pressure, static_pressure } => format!(
            "with {} flowing the gauge read {}, more than the static {}. Pressure cannot rise with flow; \
                read both again at the same place and hour",
            flow.show(u),
            pressure.show(u),
            static_pressure.show(u)
        ),
        CurveFault::NotFalling { low, high } => {
            let pair =
                |(q, p): &(fenlo_core::units::Flow, Pressure)| format!("{} at {}", p.show(u), q.show(u));
            format!(
                "pressure rises with flow between two readings ({} and {}). Read both again at the same \
                    place and hour",
                pair(low),
                pair(high)
            )
        }
        CurveFault::Pump(cause) => format!("pump curve: {cause}"),
    }
}

/// How a supply curve came about.
pub fn curve_working(curve: &SupplyCurve, u: UnitSystem) -> Working {
    match curve.from {
        CurveFrom::Pump => Working::new(
            "pump curve through its points, falling between them",
            "monotone interpolation (Fritsch and Carlson 1980)",
        )
        .with("points", curve.pairs.len().to_string())
        .with("pressure at no flow", curve.static_pressure.show(u))
        .gives("see the plot"),
        CurveFrom::Tank { height } => Working::new(
            if u.is_metric() {
                "kPa = 9.81 × m of water above the outlet"
            } else {
                "psi = 0.433 × ft of water above the outlet"
            },
            "weight of standing water; no loss inside the tank",
        )
        .with("lowest water level above the outlet", height.show(u))
        .gives(curve.static_pressure.show(u)),
        CurveFrom::Well { cut_in, cut_out } => {
            let most = curve.most.map_or_else(String::new, |m| m.show(u));
            Working::new(
                "designed for cut-in pressure; the tank cycles between cut-in and cut-out",
                "usual practice for pressure tanks",
            )
            .with("cut-in", cut_in.show(u))
            .with("cut-out", cut_out.show(u))
            .with("continuous pump flow", most)
            .gives(cut_in.show(u))
        }
        CurveFrom::Readings { gauge_height } => of_readings(curve, gauge_height, u),
    }
}

fn of_readings(curve: &SupplyCurve, gauge_height: Length, u: UnitSystem) -> Working {
    let lift = Pressure::of_height(gauge_height);
    let working = Working::new(
        "p = p₀ − K·q^1.852, K = Σ drop·q^1.852 / Σ q^3.704",
        "flow-test form (NFPA 291, AWWA M17); Hazen-Williams exponent",
    )
    .with("p₀, lowest static pressure", curve.static_pressure.show(u))
    .with("gauge elevation", format!("{} ({})", gauge_height.show(u), lift.show(u)));
    match &curve.law {
        SourceLaw::Measured { drop, at_flow, .. } if !curve.pairs.is_empty() => {
            let test = |t: &FlowTest| {
                format!(
                    "{} at {}, static {}: drop {}",
                    t.pressure.show(u),
                    t.flow.show(u),
                    t.static_pressure.show(u),
                    t.drop().show(u)
                )
            };
            let tests: Vec<String> = curve.tests.iter().map(test).collect();
            let open = |t: &&FlowTest| t.pressure == Pressure::ZERO;
            let buckets = curve.tests.iter().filter(open).count();
            let working = working
                .with("pressure drops, each from the static reading of the same visit", tests.join("; "));
            let working = match buckets {
                0 => working,
                n if n == curve.tests.len() => {
                    working.with("bucket test, hose bib wide open", "all pressure used")
                }
                _ => working.with("gauge vs. bucket", "lower result used"),
            };
            working.with("largest error", curve.residual.show(u)).gives(format!(
                "drop of {} at {}",
                drop.show(u),
                at_flow.show(u)
            ))
        }
        _ => working
            .with("readings with water running", "none; curve from the supply components")
            .gives(curve.static_pressure.show(u)),
    }
}

/// What is said of an aim below the best; empty for the best.
pub fn aim_note(aim: Aim) -> &'static str {
    match aim {
        Aim::Best => "",
        Aim::BelowBest => ", below rated pressure",
        Aim::AtLimit => ", at the minimum",
    }
}

fn demand_of(of: &DemandOf) -> String {
    match of {
        DemandOf::Valve { number, name } => format!("valve {number} ({name})"),
        DemandOf::Area(name) => name.clone(),
    }
}

/// What limits a method of design flow, or what it lacks.
pub fn method_says(says: &MethodSays, u: UnitSystem) -> String {
    match says {
        MethodSays::MeterLoss => "limited by the allowed pressure loss in the meter".into(),
        MethodSays::MeterFlow => "limited by the meter's safe flow".into(),
        MethodSays::ServiceVelocity => "limited by velocity in the service line".into(),
        MethodSays::AddMeterAndService => "add the meter and service line below".into(),
        MethodSays::EnterStatic => "enter the static pressure".into(),
        MethodSays::EnterHeads => "enter the heads first; their pressure need decides".into(),
        MethodSays::ReadRunning => {
            "unknown: read the pressure with water running, or add meter and service line".into()
        }
        MethodSays::CantServe(of, missing) => format!(
            "no head of {} reaches its minimum pressure; {} more needed",
            demand_of(of),
            missing.show(u)
        ),
        MethodSays::Wants(of, p, how) => {
            format!("{} needs {} at the point of connection{}", demand_of(of), p.show(u), aim_note(*how))
        }
        MethodSays::LowerBound => {
            "lower bound: the hose bib restricts flow. Used only if you choose it".into()
        }
        MethodSays::OpenTap => "hose bib wide open: all pressure used up".into(),
        MethodSays::NoBucket => "no bucket test yet".into(),
        MethodSays::AddPipe => "unknown: add the pipe and filter after the tank".into(),
        MethodSays::TankMost => "all tank pressure used up".into(),
        MethodSays::PumpMost => "continuous pump flow".into(),
    }
}

/// The arithmetic of a rule of design flow.
pub fn rule(rule: &FlowRule, u: UnitSystem) -> Working {
    match rule {
        FlowRule::MeterLoss { size, safe_max, share, static_pressure, flow } => {
            let loss = Pressure::from_psi(METER_LOSS_AT_MAX_PSI).show_round(u);
            let allowed = *static_pressure * *share;
            Working::new(
                format!("Q = Qmax · √(allowed loss ÷ {loss})"),
                "AWWA C700; share of static pressure: company standard",
            )
            .with("meter, Qmax", format!("{size}, {}", safe_max.show(u)))
            .with(
                "allowed loss",
                format!("{} of {} = {}", percent(*share), static_pressure.show(u), allowed.show(u)),
            )
            .gives(flow.show(u))
        }
        FlowRule::MeterShare { size, safe_max, share, flow } => {
            Working::new("Q = share · Qmax", "AWWA C700; share: company standard")
                .with("meter, Qmax", format!("{size}, {}", safe_max.show(u)))
                .with("share", percent(*share))
                .gives(flow.show(u))
        }
        FlowRule::ServiceVelocity { pipe, inside, limit, flow } => {
            Working::new("Q = v · π d² / 4", "velocity limit: company standard")
                .with("pipe, inside", format!("{pipe}, {}", inside.show_bore(u)))
                .with("v", limit.show(u))
                .gives(flow.show(u))
        }
        FlowRule::Demand(demand, aim) => demand_working(demand, *aim, u),
        FlowRule::Arrives { demand, aim, at_connection, flow } => Working::new(
            "flow at which the supply, less component losses, still gives the pressure the most demanding \
                zone needs",
            "hydraulics; allowance for the lateral: company standard",
        )
        .with("most demanding zone", demand_of(&demand.of))
        .with("nozzle and elevation", demand.fixed(*aim).show(u))
        .with("loss in its lateral, mainline and valve", demand.losses.at(*flow).show(u))
        .with("available at the point of connection", at_connection.show(u))
        .gives(flow.show(u)),
        FlowRule::Bucket { volume, time, flow } => Working::new("Q = volume / time", "measured")
            .with("volume", volume.show(u))
            .with("time", time.show(u))
            .gives(flow.show(u)),
        FlowRule::Tank { pressure, flow } => Working::new(
            "flow at which filter, pipe and other components before the valves use all of the tank's \
                pressure",
            "actual flow is lower, since heads and laterals need pressure too",
        )
        .with("tank pressure", pressure.show(u))
        .gives(flow.show(u)),
        FlowRule::Pump { flow } => {
            Working::new("last point of the pump curve, or well pump flow", "pump data").gives(flow.show(u))
        }
    }
}

fn demand_working(demand: &PressureDemand, aim: Aim, u: UnitSystem) -> Working {
    let climb = Pressure::of_height(demand.rise);
    let working = Working::new(
        "needed at the point of connection = nozzle + elevation + losses in its own piping",
        "hydraulics; company allowance for a lateral not drawn yet",
    )
    .with(
        format!("nozzle target{}", aim_note(aim)),
        format!(
            "{} (rated {}, minimum {})",
            aim.pressure(demand.band).show(u),
            demand.band.best.show_round(u),
            demand.band.least.show_round(u)
        ),
    )
    .with("elevation", format!("{} = {}", demand.rise.show(u), climb.show(u)));
    match &demand.losses {
        Losses::Planned { lateral, share, .. } => working
            .with("lateral, not drawn yet", format!("{} of rated = {}", percent(*share), lateral.show(u))),
        Losses::Solved(own) => working
            .with("solved at zone flow", format!("{}, path to the weakest head", own.flow.show(u)))
            .with("lateral", own.lateral.show(u))
            .with("mainline", own.mainline.show(u))
            .with("valve, filter, regulator", own.parts.show(u)),
    }
    .gives(demand.fixed(aim).show(u))
}

/// The last step to the design flow.
pub fn design_working(design: &DesignFlow, u: UnitSystem) -> Working {
    let known =
        |flow: Option<fenlo_core::units::Flow>| flow.map_or_else(|| "not known yet".into(), |f| f.show(u));
    let working = Working::new(
        "design flow = (safe flow − indoor use) × (1 − margin)",
        "company standard: margin for aging, and indoor use at the same time",
    )
    .with("safe flow", known(design.safe))
    .with("indoor use", design.house.show(u))
    .with("margin", percent(design.margin));
    match design.assumed {
        Some(assumed) => working
            .with("company default used", assumed.show(u))
            .gives(format!("company default: {}", assumed.show(u))),
        None => working.gives(known(design.flow)),
    }
}
