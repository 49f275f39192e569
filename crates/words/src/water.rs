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
        CurveFault::NoStatic => "no static pressure yet: put a gauge on a hose bib with nothing running in \
            house or garden, and enter what it shows"
            .into(),
        CurveFault::Rises {
            flow,
            pressure,
            static_pressure,
        } => format!(
            "with {} running the gauge showed {}, more than the static {}: pressure can't rise with flow; \
             read both again at the same place and hour",
            flow.show(u),
            pressure.show(u),
            static_pressure.show(u)
        ),
        CurveFault::NotFalling { low, high } => {
            let pair =
                |(q, p): &(fenlo_core::units::Flow, Pressure)| format!("{} at {}", p.show(u), q.show(u));
            format!(
                "pressure rises with flow between two readings ({} and {}): read them again at the same \
                 place and hour",
                pair(low),
                pair(high)
            )
        }
        CurveFault::Pump(cause) => format!("the pump's curve: {cause}"),
    }
}

/// How a supply curve came about.
pub fn curve_working(curve: &SupplyCurve, u: UnitSystem) -> Working {
    match curve.from {
        CurveFrom::Pump => Working::new(
            "the pump's curve through its points, falling between them",
            "monotone interpolation (Fritsch and Carlson 1980)",
        )
        .with("points", curve.pairs.len().to_string())
        .with("no flow", curve.static_pressure.show(u))
        .gives("pressure by flow, see the plot"),
        CurveFrom::Tank { height } => Working::new(
            if u.is_metric() {
                "kPa = 9.81 · m of water over the outlet"
            } else {
                "psi = 0.433 · ft of water over the outlet"
            },
            "the weight of standing water; what runs loses nothing in the tank itself",
        )
        .with("lowest water over the outlet", height.show(u))
        .gives(curve.static_pressure.show(u)),
        CurveFrom::Well { cut_in, cut_out } => {
            let most = curve.most.map_or_else(String::new, |m| m.show(u));
            Working::new(
                "design at the cut-in pressure: the tank cycles between the two",
                "practice with pressure tanks",
            )
            .with("cut-in", cut_in.show(u))
            .with("cut-out", cut_out.show(u))
            .with("pump gives for long", most)
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
    .with("p₀, the lowest static", curve.static_pressure.show(u))
    .with(
        "height of the gauge",
        format!("{} ({})", gauge_height.show(u), lift.show(u)),
    );
    match &curve.law {
        SourceLaw::Measured { drop, at_flow, .. } if !curve.pairs.is_empty() => {
            let test = |t: &FlowTest| {
                format!(
                    "{} at {} where {} stood: {} less",
                    t.pressure.show(u),
                    t.flow.show(u),
                    t.static_pressure.show(u),
                    t.drop().show(u)
                )
            };
            let tests: Vec<String> = curve.tests.iter().map(test).collect();
            let open = |t: &&FlowTest| t.pressure == Pressure::ZERO;
            let buckets = curve.tests.iter().filter(open).count();
            let working = working.with(
                "drops with water running, each from its own visit’s static",
                tests.join("; "),
            );
            let working = match buckets {
                0 => working,
                n if n == curve.tests.len() => {
                    working.with("a bucket from the open tap", "spends all of its pressure")
                }
                _ => working.with("of gauge and open tap", "the one counts that leaves less"),
            };
            working
                .with("largest misfit", curve.residual.show(u))
                .gives(format!("{} less at {}", drop.show(u), at_flow.show(u)))
        }
        _ => working
            .with(
                "pairs with water running",
                "none: the parts of the chain make the curve",
            )
            .gives(curve.static_pressure.show(u)),
    }
}

/// What is said of an aim below the best; empty for the best.
pub fn aim_note(aim: Aim) -> &'static str {
    match aim {
        Aim::Best => "",
        Aim::BelowBest => ", below its best",
        Aim::AtLimit => ", at its limit",
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
        MethodSays::MeterLoss => "limited by the pressure that the meter may cost".into(),
        MethodSays::MeterFlow => "limited by the meter's safe flow".into(),
        MethodSays::ServiceVelocity => "limited by the velocity in the service line".into(),
        MethodSays::AddMeterAndService => "add the meter and the service line to the chain".into(),
        MethodSays::EnterStatic => "enter the static pressure".into(),
        MethodSays::EnterHeads => "enter the heads first: what they want decides".into(),
        MethodSays::ReadRunning => {
            "not known: read pressure with water running, or add meter and service line to the chain".into()
        }
        MethodSays::CantServe(of, missing) => format!(
            "not one head of {} gets the bottom of its band: {} more are needed",
            demand_of(of),
            missing.show(u)
        ),
        MethodSays::Wants(of, p, how) => {
            format!("{} wants {} there{}", demand_of(of), p.show(u), aim_note(*how))
        }
        MethodSays::LowerBound => {
            "a lower bound: the bib itself holds back, so it limits only where you pin it".into()
        }
        MethodSays::OpenTap => "from the tap wide open: all of its pressure is spent there".into(),
        MethodSays::NoBucket => "no bucket timed".into(),
        MethodSays::AddPipe => "not known: add the pipe and the filter behind the tank to the chain".into(),
        MethodSays::TankMost => "nothing of the tank's height is left then".into(),
        MethodSays::PumpMost => "the most that the pump gives for long".into(),
    }
}

/// The arithmetic of a rule of design flow.
pub fn rule(rule: &FlowRule, u: UnitSystem) -> Working {
    match rule {
        FlowRule::MeterLoss {
            size,
            safe_max,
            share,
            static_pressure,
            flow,
        } => {
            let loss = Pressure::from_psi(METER_LOSS_AT_MAX_PSI).show_round(u);
            let allowed = *static_pressure * *share;
            Working::new(
                format!("Q = Qmax · √(allowed loss / {loss})"),
                "AWWA C700; house rule for the share of static",
            )
            .with("meter, Qmax", format!("{size}, {}", safe_max.show(u)))
            .with(
                "allowed loss",
                format!(
                    "{} of {} = {}",
                    percent(*share),
                    static_pressure.show(u),
                    allowed.show(u)
                ),
            )
            .gives(flow.show(u))
        }
        FlowRule::MeterShare {
            size,
            safe_max,
            share,
            flow,
        } => Working::new("Q = share · Qmax", "AWWA C700; house rule for the share")
            .with("meter, Qmax", format!("{size}, {}", safe_max.show(u)))
            .with("share", percent(*share))
            .gives(flow.show(u)),
        FlowRule::ServiceVelocity {
            pipe,
            inside,
            limit,
            flow,
        } => Working::new("Q = v · π d² / 4", "house rule for the velocity limit")
            .with("pipe, inside", format!("{pipe}, {}", inside.show_bore(u)))
            .with("v", limit.show(u))
            .gives(flow.show(u)),
        FlowRule::Demand(demand, aim) => demand_working(demand, *aim, u),
        FlowRule::Arrives {
            demand,
            aim,
            at_connection,
            flow,
        } => Working::new(
            "the flow at which the supply curve, less the chain, still gives what the neediest zone wants",
            "physics; the lateral's share is a house rule",
        )
        .with("neediest", demand_of(&demand.of))
        .with("nozzle and height", demand.fixed(*aim).show(u))
        .with(
            "its lateral, mainline and valve cost",
            demand.losses.at(*flow).show(u),
        )
        .with("at the connection there is", at_connection.show(u))
        .gives(flow.show(u)),
        FlowRule::Bucket { volume, time, flow } => Working::new("Q = volume / time", "measured")
            .with("volume", volume.show(u))
            .with("time", time.show(u))
            .gives(flow.show(u)),
        FlowRule::Tank { pressure, flow } => Working::new(
            "the flow at which filter, pipe and what else stands before the valves cost all of it",
            "found by halving; less runs out at the valves, since heads and laterals want some too",
        )
        .with("the tank's height gives", pressure.show(u))
        .gives(flow.show(u)),
        FlowRule::Pump { flow } => Working::new(
            "the last point of the pump's curve, or what the well pump gives",
            "the pump's own figures",
        )
        .gives(flow.show(u)),
    }
}

fn demand_working(demand: &PressureDemand, aim: Aim, u: UnitSystem) -> Working {
    let climb = Pressure::of_height(demand.rise);
    let working = Working::new(
        "wanted at the connection = nozzle + height + what its own piping costs",
        "physics; house rule for a lateral that is not piped yet",
    )
    .with(
        format!("nozzle aimed at{}", aim_note(aim)),
        format!(
            "{} (best {}, usable from {})",
            aim.pressure(demand.band).show(u),
            demand.band.best.show_round(u),
            demand.band.least.show_round(u)
        ),
    )
    .with("rise", format!("{} = {}", demand.rise.show(u), climb.show(u)));
    match &demand.losses {
        Losses::Planned { lateral, share, .. } => working.with(
            "lateral, not piped yet",
            format!("{} of its best = {}", percent(*share), lateral.show(u)),
        ),
        Losses::Solved(own) => working
            .with(
                "solved at its own flow",
                format!("{}, the last head's way", own.flow.show(u)),
            )
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
        "design flow = (safe flow − house) × (1 − margin)",
        "house rule: margin for ageing, and what the house takes meanwhile",
    )
    .with("safe flow", known(design.safe))
    .with("house", design.house.show(u))
    .with("margin", percent(design.margin));
    match design.assumed {
        Some(assumed) => working
            .with("assumed meanwhile, by the house's rule", assumed.show(u))
            .gives(format!("assumed: {}", assumed.show(u))),
        None => working.gives(known(design.flow)),
    }
}
