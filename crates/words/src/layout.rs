use crate::names::either;
use crate::working::{Working, percent};
use fenlo_core::catalogue::Kind;
use fenlo_core::coverage::{Expected, Scatter, aim_of};
use fenlo_core::layout::{
    Advice, AdviceReason, Drip, LayoutFault, Proposal, ReachAdvice, Unreached, WeekMinutes, WeekNeed,
};
use fenlo_core::units::{Length, Surface, UnitSystem};

/// Ground narrower than this is not laid out.
fn neck(u: UnitSystem) -> &'static str {
    either(u, "2 ft", "60 cm")
}

/// Why a kind of head suits an area.
pub fn advice(advice: &Advice, u: UnitSystem) -> String {
    let wide = advice.width.show_tape(u);
    match advice.why {
        AdviceReason::DripOnly => format!("{wide} wide: under {} only drip keeps to it", neck(u)),
        AdviceReason::Containers => "containers want water at each plant".into(),
        AdviceReason::Rows => {
            "rows are watered at the root by drip; heads over them wet leaves and paths".into()
        }
        AdviceReason::Bed => {
            format!("{wide} wide: in a bed, rows at the root pass the plants that a spray would hit")
        }
        AdviceReason::Trees => "trees want water at the root ball, in a basin or by drip".into(),
        AdviceReason::Strips => format!("{wide} wide: strip patterns, or drip"),
        AdviceReason::Narrow => {
            format!("{wide} wide: too narrow for a throw, and no strip pattern is near it; drip keeps to it")
        }
        AdviceReason::HouseSprays => "the house sets sprays wherever they reach".into(),
        AdviceReason::HouseRotators => format!("{wide} wide; the house sets rotators wherever they reach"),
        AdviceReason::Slope => format!("{wide} wide; on a slope a slow rate soaks in"),
        AdviceReason::HeavySoil => format!("{wide} wide; on heavy soil a slow rate soaks in"),
        AdviceReason::Wind => {
            format!("{wide} wide; in wind slow streams carry better than fine spray")
        }
        AdviceReason::SprayReach => format!("{wide} wide: within the reach of sprays"),
        AdviceReason::RotatorReach => {
            format!("{wide} wide: rotators reach across with fewer heads and less flow than sprays")
        }
        AdviceReason::Open => format!("{wide} wide: open ground for rotors"),
        AdviceReason::WideOpen => {
            format!("{wide} wide: open ground for large rotors, if the pressure is there")
        }
    }
}

/// Why there is no proposal.
pub fn layout_fault(fault: &LayoutFault, u: UnitSystem) -> String {
    match fault {
        LayoutFault::TooNarrow(width) => format!(
            "at its widest it is {} wide: under {} only drip keeps to it",
            width.show_tape(u),
            neck(u)
        ),
        LayoutFault::TooSmall { width, shortest } => format!(
            "it is {} wide and the shortest throw of this kind is {}: more would land beside it than on it",
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
        ReachAdvice::DripOnly => format!(
            "{area} get no water: the ground there is {width} wide, and under {} only drip keeps to it",
            neck(u)
        ),
        ReachAdvice::StripOrDrip => format!(
            "{area} get next to no water: the ground there is {width} wide; a strip pattern or drip suits it"
        ),
        ReachAdvice::MoreHeads => {
            format!("{area} get next to no water: set a head there, or let one throw farther")
        }
    }
}

/// How a proposal was laid out.
pub fn how_laid_out(proposal: &Proposal, u: UnitSystem) -> String {
    let how = placed(proposal, u);
    let off = proposal.score.overspray;
    if off > 0.03 {
        format!(
            "{how}; {:.1} % lands off the area, nothing of this kind does better here",
            off * 100.0
        )
    } else {
        how
    }
}

fn placed(proposal: &Proposal, u: UnitSystem) -> String {
    match proposal.spacing {
        Some((throw, spacing)) => format!(
            "corners, edges and a {} inside, {} at most from one to the next for a throw of {}; best of {} \
             layouts, then searched",
            proposal.pattern,
            Length::from_m(spacing).show(u),
            Length::from_m(throw).show(u),
            proposal.tried
        ),
        None => format!(
            "{} end to end; best of {} layouts",
            proposal.pattern, proposal.tried
        ),
    }
}

/// How the need of the peak week comes about.
pub fn week_need(need: &WeekNeed, u: UnitSystem) -> Working {
    Working::new(
        "need = ET0 of the peak week × plant factor × exposure − half of the rain",
        "the month of the climate that wants most; without a climate the house's peak week",
    )
    .with("ET0 of the peak week", need.et0.show_depth(u))
    .with("plant factor", format!("{}", need.factor))
    .with("exposure", format!("{}", need.exposure))
    .with("rain", need.rain.show_depth(u))
    .with("such weeks in a year", format!("{:.1}", need.weeks))
    .gives(need.depth.show_depth(u))
}

/// How the running time of a week comes about.
pub fn alternative_minutes(week: &WeekMinutes, u: UnitSystem) -> Working {
    let need = week_need(&week.need, u);
    Working {
        formula: format!(
            "{}; minutes = 60 × need ÷ rate × 1 ÷ (0.4 + 0.6 DU)",
            need.formula
        ),
        ..need
    }
    .with("need", week.need.depth.show_depth(u))
    .with("rate", week.rate.show(u))
    .with("DU expected", format!("{:.2}", week.du))
    .with("multiplier", format!("{:.2}", week.multiplier))
    .gives(format!("{:.0} min a week", week.minutes.minutes()))
}

/// How drip over an area comes about.
pub fn drip_of_area(drip: &Drip, area: Surface, u: UnitSystem) -> Working {
    Working::new(
        "rows laid on the drawing, 3 in (8 cm) off its edges; flow = emitters × flow of one",
        "dripline, emitter and row spacing by soil texture, as practised",
    )
    .with("area", area.show(u))
    .with(
        "rows",
        format!("{}, {} apart", drip.rows, drip.rows_apart.show_tape(u)),
    )
    .with("emitters", format!("every {}", drip.emitters_apart.show_tape(u)))
    .with("one emitter", crate::emitter_flow(drip.emitter, u))
    .with(
        "by area alone",
        (Length::from_m(area.m2() / drip.rows_apart.m().max(1e-6))).show(u),
    )
    .gives(format!(
        "{} of tubing, {} emitters",
        drip.tubing.show(u),
        drip.emitters
    ))
}

/// How the expected evenness comes about.
pub fn expected_working(ideal: f64, expected: &Expected, kind: Kind) -> Working {
    let s = Scatter::of(kind);
    Working::new(
        "mean of DU over repetitions, each head off by its kind’s scatter, wind from another side each time",
        "simulated, seeded; scatter by house rules, set so that sound layouts come out as audits find them",
    )
    .with("repetitions", expected.repetitions.to_string())
    .with(
        "scatter, one deviation",
        format!(
            "flow {}, throw {}, streaks {}, {:.0}° of aim",
            percent(s.flow),
            percent(s.throw),
            percent(s.streaks),
            s.aim
        ),
    )
    .with("one repetition from another", format!("±{:.2}", expected.spread))
    .with("ideal: perfect heads, still air", format!("{ideal:.2}"))
    .with("aim of its kind", format!("{:.2}", aim_of(kind)))
    .gives(format!("{:.2}", expected.du))
}
