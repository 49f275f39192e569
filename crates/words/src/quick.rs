use fenlo_core::units::UnitSystem;
use fenlo_core::zoning::Limit;

/// What stops one more head.
pub fn limit(limit: Limit, u: UnitSystem) -> String {
    match limit {
        Limit::Flow { heads, takes, design } => {
            format!(
                "{heads} take {}, over the design flow of {}",
                takes.show(u),
                design.show(u)
            )
        }
        Limit::Pressure { heads, gets, needs } => {
            format!(
                "with {heads} the last head gets {}, it needs {}",
                gets.show(u),
                needs.show_round(u)
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
