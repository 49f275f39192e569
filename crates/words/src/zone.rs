use crate::names::height_law;
use crate::water::curve_fault;
use crate::working::{Working, percent};
use fenlo_core::catalogue::Catalogue;
use fenlo_core::chain::PartName;
use fenlo_core::job::Job;
use fenlo_core::network::LinkState;
use fenlo_core::plan::HouseRules;
use fenlo_core::units::{Surface, UnitSystem};
use fenlo_core::zone::{HeadResult, WalkNote, WalkPart, ZoneAssessment, ZoneFault};

/// Why a zone has no figures.
pub fn zone_fault(fault: &ZoneFault, u: UnitSystem) -> String {
    match fault {
        ZoneFault::Water(fault) => curve_fault(fault, u),
        ZoneFault::Drip(group, fault) => {
            format!("drip in {group} cannot be laid: {}", crate::drip_fault(fault, u))
        }
        other => other.to_string(),
    }
}

/// How the figures of a zone come about, each with its name.
pub fn zone_workings(zone: &ZoneAssessment, u: UnitSystem) -> Vec<(&'static str, Working)> {
    let (low, high) = (zone.lowest(), zone.highest());
    let flow =
        Working::new("sum of q₀·(p/p₀)^x over the heads, at solved pressure", "orifice flow; calculated")
            .with("heads", zone.heads.len().to_string())
            .with("sum at rated pressure", zone.nominal_flow.show(u))
            .gives(zone.flow.show(u));
    let pressure = Working::new(
        "static pressure less every loss on the way",
        format!("Hazen and Williams 1905; {}", height_law(u)),
    )
    .with("lowest, highest nozzle pressure", format!("{}, {}", low.nozzle.show(u), high.highest.show(u)))
    .with("at the start of the lateral", zone.lateral_inlet.show(u))
    .gives(low.nozzle.show(u));
    let rate = Working::new(format!("flow ÷ area ({})", rate_formula(u)), "calculated")
        .with("flow", zone.flow.show(u))
        .with("area from spacing and arcs", zone.area.show(u))
        .gives(zone.rate.show(u));
    let spread = Working::new("(highest − lowest) ÷ rated", "limit: company standard")
        .with("highest, lowest", format!("{}, {}", high.highest.show(u), low.nozzle.show(u)))
        .with("rated", low.band.best.show(u))
        .gives(percent(zone.spread));
    vec![("Flow", flow), ("Pressure", pressure), ("Rate", rate), ("Pressure variation", spread)]
}

fn rate_formula(u: UnitSystem) -> &'static str {
    match u {
        UnitSystem::Us => "in/h = 96.25·gpm / ft²",
        UnitSystem::Metric | UnitSystem::MetricBar => "mm/h = 60·L/min / m²",
    }
}

/// How the figures of one head come about; `at` is its place in the zone's heads. Nothing for a
/// head that is not there.
pub fn head_workings(zone: &ZoneAssessment, at: usize, job: &Job) -> Vec<(&'static str, Working)> {
    let u = job.units;
    let Some(head) = zone.heads.get(at) else {
        return Vec::new();
    };
    let mut all = vec![("Pressure", head_pressure(zone, head, u)), ("Flow", head_flow(head, u))];
    all.extend(head_throw(head, job).map(|w| ("Radius", w)));
    let area = Surface::from_m2(head.flow.lpm() * 60.0 / head.rate.mmph().max(1e-9));
    let rate = Working::new(format!("flow ÷ area of this head ({})", rate_formula(u)), "calculated")
        .with("flow", head.flow.show(u))
        .with("area", area.show(u))
        .gives(head.rate.show(u));
    all.push(("Rate", rate));
    all
}

fn head_pressure(zone: &ZoneAssessment, head: &HeadResult, u: UnitSystem) -> Working {
    let body = head.inlet - head.nozzle;
    let mut working = Working::new(
        "pressure at lateral start − friction and elevation to this head − body regulator",
        format!("calculated; Hazen and Williams 1905; {}", height_law(u)),
    )
    .with("at the start of the lateral", zone.lateral_inlet.show(u))
    .with("friction and elevation", (head.inlet - zone.lateral_inlet).show(u));
    if body.kpa() > 0.01 {
        working = working.with("body regulator", format!("−{}", body.show(u)));
    }
    let band = head.band;
    let usable = format!("{}, {} to {}", band.best.show(u), band.least.show(u), band.most.show(u));
    working.with("rated, range", usable).gives(head.nozzle.show(u))
}

fn head_flow(head: &HeadResult, u: UnitSystem) -> Working {
    let working = if head.exponent == 0.0 {
        Working::new("same flow at any pressure in range (pressure-compensating)", "typical for this type")
            .with("arc", format!("{}°", head.arc))
    } else {
        Working::new("q₀·(p/p₀)^x", "orifice flow; chart values typical for this type")
            .with("q₀ for its arc (and reduced radius, for rotators)", head.nominal_flow.show(u))
            .with("p, p₀", format!("{}, {}", head.nozzle.show(u), head.band.best.show(u)))
            .with("x", format!("{:.3}", head.exponent).trim_end_matches('0').to_owned())
    };
    working.gives(head.flow.show(u))
}

fn head_throw(head: &HeadResult, job: &Job) -> Option<Working> {
    let u = job.units;
    let group = job.group(&head.head.group)?;
    let nozzle = job.catalogue().nozzle(&group.nozzle)?;
    let listed = group.count() as usize - group.drawn.len();
    let drawn = group.drawn.get((head.head.index as usize).wrapping_sub(listed));
    let turned = drawn.and_then(|d| d.radius);
    let class = job.catalogue().class(nozzle.kind);
    let (full, throw) = (nozzle.radius?, nozzle.throw(class, head.nozzle, turned)?);
    let working = Working::new(
        "R₀·(p/p₀)^0.3 below rated pressure; at most 3% more above it",
        "usual practice for this type",
    )
    .with("R₀", full.show(u))
    .with("reduced radius", turned.map_or_else(|| "not reduced".to_owned(), |r| r.show(u)))
    .with("p, p₀", format!("{}, {}", head.nozzle.show(u), head.band.best.show(u)));
    Some(working.gives(throw.show(u)))
}

/// How the velocity comes about.
pub fn velocity_working(zone: &ZoneAssessment, rules: &HouseRules, u: UnitSystem) -> Working {
    let at = if zone.fastest_first_leg { "first section" } else { "another lateral section or the mainline" };
    let limits = format!("{}, {}", rules.velocity_watch.show(u), rules.velocity_stop.show(u));
    Working::new(
        "v = Q ÷ (π·d²/4) in the fastest pipe downstream of the shared components",
        "continuity; limits: company standard",
    )
    .with("where", at)
    .with("zone flow", zone.flow.show(u))
    .with("watch above, stop above", limits)
    .gives(zone.velocity.show(u))
}

/// A step of the pressure walk in a word or two.
pub fn walk_part(part: &WalkPart) -> String {
    match part {
        WalkPart::Static => "Static pressure".into(),
        WalkPart::SupplyToGauge => "Supply up to the gauge".into(),
        WalkPart::Chain(name) => chain_part(name),
        WalkPart::Mainline => "Mainline".into(),
        WalkPart::Valve => "Valve".into(),
        WalkPart::Filter => "Filter, clean".into(),
        WalkPart::Regulator => "Regulator".into(),
        WalkPart::FirstLeg => "First section".into(),
        WalkPart::Part(label) | WalkPart::Preset(label) => label.clone(),
        WalkPart::Drip => "Drip tubing, to the emitter".to_owned(),
        WalkPart::Legs(n) => format!("{n} lateral section{}", if *n == 1 { "" } else { "s" }),
        WalkPart::Height => "Elevation".into(),
        WalkPart::BodyRegulator => "Body regulator".into(),
    }
}

fn chain_part(name: &PartName) -> String {
    match name {
        PartName::ServiceLine => "Service line".into(),
        PartName::SharedMain => "Shared mainline".into(),
        PartName::Meter(size) => format!("Meter {}", size.replace("in", " in").replace('-', " ")),
        PartName::Device(model) => {
            let known = Catalogue::builtin().device(model);
            let label = known.map_or(model.as_str(), |d| &d.label);
            let words = label.trim_end_matches(" 1 in").trim_end_matches(" 3/4 in");
            words
                .replace("Pressure vacuum", "Vacuum")
                .replace("Reduced-pressure assembly", "Reduced pressure")
                .replace("Isolation ball", "Ball")
                .replace(" assembly", "")
        }
        PartName::SystemRegulator => "System regulator".into(),
    }
}

/// What is said of a step beside its figures.
pub fn walk_note(note: WalkNote, u: UnitSystem) -> String {
    match note {
        WalkNote::None => String::new(),
        WalkNote::FromReadings => "from readings with water running".into(),
        WalkNote::Velocity(v) => v.show(u),
        WalkNote::State(LinkState::Active) | WalkNote::BodyHolds(true) => "regulating".into(),
        WalkNote::State(LinkState::Open) => "fully open".into(),
        WalkNote::State(LinkState::Closed) => "closed".into(),
        WalkNote::Rise(rise) => rise.show(u),
        WalkNote::BodyHolds(false) => "not regulating".into(),
    }
}
