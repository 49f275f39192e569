use crate::Working;
use fenlo_core::catalogue::{ArcRule, Catalogue, Fit, HeadClass, Kind, Nozzle};
use fenlo_core::plan::{DesignFlowMethod, Regulation, WaterSource};
use fenlo_core::site::Soil;
use fenlo_core::terms::{Lang, term};
use fenlo_core::units::{Flow, Pressure, UnitSystem};

/// A method of design flow at a point of connection: only city water comes through a meter and a service
/// line.
pub fn method(method: DesignFlowMethod, water: &WaterSource) -> &'static str {
    let key = match method {
        DesignFlowMethod::MeterAndService if water.is_mains() => "method.meter-and-service",
        DesignFlowMethod::MeterAndService => "method.supply-piping",
        DesignFlowMethod::WorkingPressure => "method.working-pressure",
        DesignFlowMethod::TimedBucket => "method.timed-bucket",
        DesignFlowMethod::Pump => "method.pump",
    };
    term(key, Lang::En)
}

/// How the static pressure of a source is known, and from where.
pub fn static_from(water: &WaterSource) -> (&'static str, &'static str) {
    match water {
        WaterSource::Street | WaterSource::Tap => ("lowest static reading; see Water", "measured"),
        WaterSource::Pump { .. } => ("pump pressure at no flow", "pump curve"),
        WaterSource::Well { .. } => ("cut-in pressure of the pressure switch", "pump data"),
        WaterSource::Tank { .. } => ("lowest water level above the outlet", "calculated"),
    }
}

/// A head type.
pub fn kind(kind: Kind) -> &'static str {
    kind.name(Lang::En)
}

/// A nozzle in the units of the job: by its throw where nozzles of its kind differ in throw, by its
/// flow where they differ in flow. One of the house keeps the name that it was given.
pub fn nozzle(nozzle: &Nozzle, units: UnitSystem) -> String {
    let built_in = Catalogue::builtin().nozzle(&nozzle.id).is_some();
    if !built_in || units == UnitSystem::Us {
        return nozzle.label.clone();
    }
    let name = kind(nozzle.kind);
    if let Some(strip) = nozzle.pattern {
        // `End strip`, `Square`: the words before the figures.
        let words = nozzle.label.find(|c: char| c.is_ascii_digit());
        let words = words.map_or(nozzle.label.as_str(), |i| nozzle.label[..i].trim());
        return format!("{words} {:.1} × {:.1} m", strip.width.m(), strip.length.m());
    }
    match nozzle.kind {
        Kind::Spray | Kind::Rotator | Kind::RotatorShort => {
            let throw = nozzle.radius.unwrap_or_default();
            format!("{name} {:.1} m", throw.m())
        }
        Kind::Dripline | Kind::Emitter | Kind::Tape => {
            format!("{} {:.1} L/h", drip_word(nozzle.kind), nozzle.flow.lpm() * 60.0)
        }
        _ => {
            let lpm = nozzle.flow.lpm();
            if lpm < 10.0 { format!("{name} {lpm:.1} L/min") } else { format!("{name} {lpm:.0} L/min") }
        }
    }
}

fn drip_word(kind: Kind) -> &'static str {
    match kind {
        Kind::Dripline => "Dripline",
        Kind::Tape => "Tape",
        _ => "Emitter",
    }
}

/// Where a zone is regulated, in a few words.
pub fn regulation(regulation: Regulation, units: UnitSystem) -> String {
    match regulation {
        Regulation::None => "no regulator".into(),
        Regulation::Valve { set } => format!("regulator on valve {}", set.show_round(units)),
        Regulation::Inline { set } => format!("in-line regulator {}", set.show_round(units)),
        Regulation::Body { set } => format!("regulated bodies {}", set.show_round(units)),
    }
}

/// One of two ways to say a figure of practice: in US units, or in metric ones.
pub(crate) fn either(u: UnitSystem, us: &'static str, metric: &'static str) -> &'static str {
    if u.is_metric() { metric } else { us }
}

/// What standing water weighs on.
pub(crate) fn height_law(u: UnitSystem) -> &'static str {
    match u {
        UnitSystem::Us => "0.433 psi/ft",
        UnitSystem::Metric => "9.81 kPa/m",
        UnitSystem::MetricBar => "0.0981 bar/m",
    }
}

/// How the law of a nozzle of the house came out of its chart.
pub fn fit(fit: &Fit, rows: usize, class: &HeadClass, u: UnitSystem) -> Working {
    let law = "flow q = k · p^x, least squares on ln q over ln p; radius = R₀ · (p/p₀)^0.3, at most 3% more";
    let (low, high) = fit.pressures;
    let arcs = match fit.arc_rule {
        ArcRule::Proportional => "in proportion to the arc",
        ArcRule::Any | ArcRule::Fixed => "the same for any arc",
    };
    let flow = if u.is_metric() { fit.flow.lpm() } else { fit.flow.gpm() };
    let k = (
        format!("k, for p in {} and q in {}", Pressure::unit(u), Flow::unit(u)),
        flow / class.nominal.value(u).powf(fit.exponent),
    );
    let (flow, throw, at) = (fit.flow.show(u), fit.radius.show(u), class.nominal.show_round(u));
    Working::new(law, "orifice equation, fitted to the rows of this chart")
        .with("rows", rows.to_string())
        .with("pressures", format!("{} to {}", low.show_round(u), high.show_round(u)))
        .with(k.0, format!("{:.4}", k.1))
        .with("exponent x", format!("{:.3}", fit.exponent))
        .with("flow for smaller arcs", arcs)
        .with("largest error, flow", format!("{:.1}%", fit.flow_off * 100.0))
        .with("largest error, radius", format!("{:.1}%", fit.radius_off * 100.0))
        .gives(format!("{flow} and {throw} at {at}"))
}

/// A soil within a sentence.
pub fn soil(soil: Soil) -> &'static str {
    let key = match soil {
        Soil::Clay => "soil.clay",
        Soil::SiltyClay => "soil.silty-clay",
        Soil::ClayLoam => "soil.clay-loam",
        Soil::SiltLoam => "soil.silt-loam",
        Soil::Loam => "soil.loam",
        Soil::SandyLoam => "soil.sandy-loam",
        Soil::LoamySand => "soil.loamy-sand",
        Soil::Sand => "soil.sand",
    };
    term(key, Lang::En)
}
