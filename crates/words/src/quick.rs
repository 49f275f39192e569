use fenlo_core::units::UnitSystem;
use fenlo_core::zoning::Limit;

/// What stops one more head; `assumed` where the flow that stops it was read by nobody.
pub fn limit(limit: Limit, assumed: bool, u: UnitSystem) -> String {
    match limit {
        Limit::Flow { heads, takes, design } => {
            format!(
                "{heads} take {}, over the {} of {}",
                takes.show(u),
                if assumed { "assumed flow" } else { "design flow" },
                design.show(u)
            )
        }
        Limit::Pressure { heads, gets, needs } => {
            format!(
                "with {heads} the last head gets {} where {} are aimed at",
                gets.show(u),
                needs.show(u)
            )
        }
        Limit::Velocity {
            heads,
            velocity,
            limit,
        } => {
            format!(
                "with {heads} the pipe runs at {}, over {}",
                velocity.show(u),
                limit.show(u)
            )
        }
        Limit::Unsolved => "the zone can't be solved: see the water".into(),
        Limit::Untried(n) => format!("more than {n} were not tried"),
        Limit::NothingAsked => "nothing was asked".into(),
    }
}
