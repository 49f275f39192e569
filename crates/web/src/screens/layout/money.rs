//! What ways cost, as it is shown.

use fenlo_core::job::Job;
use fenlo_core::layout::Alternative;
use fenlo_core::pricing::{FirstCost, PriceBook, Saving, first_cost};
use fenlo_core::takeoff::Line;
use fenlo_core::units::{UnitSystem, Volume};

/// What the ways buy, in their order, and the prices of that.
pub struct Money {
    pub bought: Vec<Option<Vec<Line>>>,
    pub book: PriceBook,
}

impl Money {
    pub(super) fn of(&self, plan: &Job, place: usize, way: &Alternative) -> Option<FirstCost> {
        let lines = self.bought.get(place)?.as_ref()?;
        Some(first_cost(plan, way, lines, &self.book))
    }
}

pub(super) fn said(plan: &Job, saving: Option<&Saving>) -> String {
    saving.map_or_else(String::new, |s| fenlo_words::saving(s, plan.units, &plan.rules.buying.currency))
}

pub(super) fn gallons(volume: Volume, u: UnitSystem) -> String {
    match u {
        UnitSystem::Us => {
            let hundreds = (volume.litres() / fenlo_core::units::LPM_PER_GPM / 100.0).round() as u64;
            if hundreds < 10 {
                format!("{} gal", hundreds * 100)
            } else {
                format!("{},{:03} gal", hundreds / 10, hundreds % 10 * 100)
            }
        }
        UnitSystem::Metric | UnitSystem::MetricBar => format!("{:.1} m³", volume.litres() / 1000.0),
    }
}

pub(super) fn sum(plan: &Job, sum: rust_decimal::Decimal) -> String {
    fenlo_words::whole_money(sum, &plan.rules.buying.currency)
}
