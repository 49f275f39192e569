use crate::said::{counted, one};
use fenlo_core::units::UnitSystem;
use fenlo_core::zoning::Limit;

/// What stops one more head; `assumed` where the flow that stops it was read by nobody.
pub fn limit(limit: Limit, assumed: bool, u: UnitSystem) -> String {
    match limit {
        Limit::Flow { heads, takes, design } => {
            format!(
                "{} {} {}, above the {} of {}",
                counted(heads, "head"),
                one(heads, "uses", "use"),
                takes.show(u),
                if assumed { "assumed flow" } else { "design flow" },
                design.show(u)
            )
        }
        Limit::Pressure { heads, gets, needs } => {
            format!(
                "with {} the weakest gets {}, target {}",
                counted(heads, "head"),
                gets.show(u),
                needs.show(u)
            )
        }
        Limit::Velocity { heads, velocity, limit } => {
            format!(
                "with {} the velocity is {}, limit {}",
                counted(heads, "head"),
                velocity.show(u),
                limit.show(u)
            )
        }
        Limit::Unsolved => "the zone cannot be solved; check the water supply".into(),
        Limit::Untried(n) => format!("not tested above {n}"),
        Limit::NothingAsked => "enter the heads first".into(),
    }
}
