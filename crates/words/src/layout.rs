use crate::names::either;
use crate::said::counted;
use crate::working::{Working, percent};
use fenlo_core::catalogue::Kind;
use fenlo_core::coverage::{Expected, Scatter, aim_of};
use fenlo_core::coverage::{ReachAdvice, Unreached};
use fenlo_core::layout::{Advice, AdviceReason, Drip, LayoutFault, Proposal, WeekMinutes};
use fenlo_core::plan::WeekNeed;
use fenlo_core::units::{Length, Surface, UnitSystem};

/// Ground narrower than this is not laid out.
fn neck(u: UnitSystem) -> &'static str {
    either(u, "2 ft", "60 cm")
}

/// Why a kind of head suits an area.
pub fn advice(advice: &Advice, u: UnitSystem) -> String {
    let wide = advice.width.show_tape(u);
    match advice.why {
        AdviceReason::DripOnly => format!("{wide} wide: below {} only drip avoids overspray", neck(u)),
        AdviceReason::Containers => "containers need water at each plant".into(),
        AdviceReason::Rows => "drip waters rows at the root; spray would wet leaves and paths".into(),
        AdviceReason::Bed => {
            format!("{wide} wide bed: drip reaches the roots that plants would block from spray")
        }
        AdviceReason::Trees => "trees need water at the root ball: basin or drip".into(),
        AdviceReason::Strips => format!("{wide} wide: strip nozzles or drip"),
        AdviceReason::Narrow => {
            format!("{wide} wide: too narrow for spray and no strip nozzle fits; use drip")
        }
        AdviceReason::HouseSprays => "company preference: sprays wherever they reach".into(),
        AdviceReason::HouseRotators => {
            format!("{wide} wide; company preference: rotators wherever they reach")
        }
        AdviceReason::Slope => format!("{wide} wide; a low precipitation rate soaks in on a slope"),
        AdviceReason::HeavySoil => format!("{wide} wide; a low precipitation rate soaks into heavy soil"),
        AdviceReason::Wind => {
            format!("{wide} wide; rotator streams hold up better in wind than spray")
        }
        AdviceReason::SprayReach => format!("{wide} wide: within spray radius"),
        AdviceReason::RotatorReach => {
            format!("{wide} wide: rotators cover it with fewer heads and less flow than sprays")
        }
        AdviceReason::Open => format!("{wide} wide: open area for rotors"),
        AdviceReason::WideOpen => {
            format!("{wide} wide: open area for large rotors if pressure allows")
        }
    }
}

/// Why there is no proposal.
pub fn layout_fault(fault: &LayoutFault, u: UnitSystem) -> String {
    match fault {
        LayoutFault::TooNarrow(width) => format!(
            "its widest point is {}: below {} only drip avoids overspray",
            width.show_tape(u),
            neck(u)
        ),
        LayoutFault::TooSmall { width, shortest } => format!(
            "it is {} wide and the shortest radius of this head type is {}: most of the water would miss it",
            width.show_tape(u),
            shortest.show_tape(u)
        ),
        other => other.to_string(),
    }
}

/// A width that is known to a cell or so: to half a foot, to a decimetre.
fn roughly(width: Length, u: UnitSystem) -> String {
    let rounded = match u {
        UnitSystem::Us => Length::from_ft((width.ft() * 2.0).round().max(1.0) / 2.0),
        UnitSystem::Metric | UnitSystem::MetricBar => {
            Length::from_m((width.m() * 10.0).round().max(1.0) / 10.0)
        }
    };
    format!("about {}", rounded.show(u))
}

/// A part that gets no water, why, and what would help.
pub fn unreached(part: &Unreached, u: UnitSystem) -> String {
    let (area, width) = (part.area.show(u), roughly(part.width, u));
    match part.advice() {
        ReachAdvice::DripOnly => {
            format!("{area} gets no water: it is {width} wide there, and below {} only drip works", neck(u))
        }
        ReachAdvice::StripOrDrip => {
            format!("{area} gets almost no water: it is {width} wide there; use a strip nozzle or drip")
        }
        ReachAdvice::MoreHeads => {
            format!("{area} gets almost no water: add a head there or increase a radius")
        }
    }
}

/// How a proposal was laid out.
pub fn how_laid_out(proposal: &Proposal, u: UnitSystem) -> String {
    let how = placed(proposal, u);
    let off = proposal.score.overspray;
    if off > 0.03 {
        format!("{how}; {:.1}% lands outside the area, the best this head type can do here", off * 100.0)
    } else {
        how
    }
}

fn placed(proposal: &Proposal, u: UnitSystem) -> String {
    match proposal.spacing {
        Some((throw, spacing)) => format!(
            "heads in corners, along edges and in a {} inside; spacing up to {} for a radius of {}; best \
                of {} layouts, then refined",
            proposal.pattern,
            Length::from_m(spacing).show(u),
            Length::from_m(throw).show(u),
            proposal.tried
        ),
        None => format!("{} end to end; best of {} layouts", proposal.pattern, proposal.tried),
    }
}

/// How the need of the peak week comes about.
pub fn week_need(need: &WeekNeed, u: UnitSystem) -> Working {
    Working::new(
        "need = ET₀ of the peak week × plant factor × exposure − half of the rain",
        "driest month of the climate data; without climate data, the company's peak week",
    )
    .with("ET0 of the peak week", need.et0.show_depth(u))
    .with("plant factor", format!("{}", need.factor))
    .with("exposure", format!("{}", need.exposure))
    .with("rain", need.rain.show_depth(u))
    .with("equivalent peak weeks per year", format!("{:.1}", need.weeks))
    .gives(need.depth.show_depth(u))
}

/// How the running time of a week comes about.
pub fn alternative_minutes(week: &WeekMinutes, u: UnitSystem) -> Working {
    let need = week_need(&week.need, u);
    Working {
        formula: format!("{}; minutes = 60 × need ÷ rate × 1 ÷ (0.4 + 0.6 DU)", need.formula), ..need
    }
    .with("need", week.need.depth.show_depth(u))
    .with("rate", week.rate.show(u))
    .with("DU, expected", format!("{:.2}", week.du))
    .with("multiplier", format!("{:.2}", week.multiplier))
    .gives(format!("{:.0} min/week", week.minutes.minutes()))
}

/// How drip over an area comes about.
pub fn drip_of_area(drip: &Drip, area: Surface, u: UnitSystem) -> Working {
    Working::new(
        "rows laid on the drawing, 3 in (8 cm) off the edges; flow = emitters × flow per emitter",
        "dripline, emitter and row spacing by soil texture, usual practice",
    )
    .with("area", area.show(u))
    .with("rows", format!("{}, {} apart", counted(drip.rows, "row"), drip.rows_apart.show_tape(u)))
    .with("emitters", format!("spacing {}", drip.emitters_apart.show_tape(u)))
    .with("flow per emitter", crate::emitter_flow(drip.emitter, u))
    .with("estimate from area", (Length::from_m(area.m2() / drip.rows_apart.m().max(1e-6))).show(u))
    .gives(format!("{} of tubing, {}", drip.tubing.show(u), counted(drip.emitters, "emitter")))
}

/// How the expected evenness comes about.
pub fn expected_working(ideal: f64, expected: &Expected, kind: Kind) -> Working {
    let s = Scatter::of(kind);
    Working::new(
        "average DU of repeated simulations with random head errors and wind directions",
        "simulated with a fixed random seed; scatter calibrated so sound layouts match field audits",
    )
    .with("simulations", expected.repetitions.to_string())
    .with(
        "scatter (one standard deviation)",
        format!(
            "flow {}, radius {}, pattern {}, aim {:.0}°",
            percent(s.flow),
            percent(s.throw),
            percent(s.streaks),
            s.aim
        ),
    )
    .with("spread between simulations", format!("±{:.2}", expected.spread))
    .with("ideal DU (perfect heads, no wind)", format!("{ideal:.2}"))
    .with("target for this head type", format!("{:.2}", aim_of(kind)))
    .gives(format!("{:.2}", expected.du))
}
