//! Words for the figures of `fenlo-core`: what screens, reports and drawings say.
//!
//! Core speaks in values: quantities, codes, choices. Here each value gets its words and its units,
//! once, so that a page, the command line and a drawing call the same thing by the same name, and so
//! that another language has one place to stand in.
//!
//! ```
//! use fenlo_core::{assess::assess, job::Job, plan::Plan, units::UnitSystem};
//!
//! let job = Job::new(Plan::new("Corner plot", UnitSystem::Us));
//! let finding = &assess(&job).supplies[0].findings[0];
//! let said = fenlo_words::finding(finding, &job);
//! assert_eq!(said.title, "Water supply not entered");
//! assert!(said.text.starts_with("Meter: no static pressure yet"));
//! ```
//!
//! | module | speaks of |
//! |---|---|
//! | `working` | the arithmetic of a figure, ready to be read |
//! | `names` | nozzles, kinds, pipes, methods, regulators, valves |
//! | `water` | readings, design flow |
//! | `zone` | figures of a zone and of its heads, the pressure walk |
//! | `findings` | checks and remedies |
//! | `takeoff` | the list of parts, and why so many |
//! | `throws` | how far heads throw together, on which tube |
//! | `help` | how each step is measured; signs of trouble and words |
//! | `regulation`, `zoning`, `layout`, `quick` | proposals and answers, and why |
//!
//! Not here: messages of faults in files and forms, which core words itself since they name the
//! text that was given.
#![forbid(unsafe_code)]
#![deny(missing_docs)]

mod assembly;
mod checks;
mod drip;
mod findings;
mod help;
mod layout;
mod names;
mod open;
mod piping;
mod planning;
mod pricing;
mod quick;
mod regulation;
mod runtime;
mod said;
mod takeoff;
#[cfg(test)]
mod tests;
mod throws;
mod water;
mod working;
mod zone;
mod zoning;

pub use assembly::{assembly_fault, part_end, part_why, seal, stands, start};
pub use drip::{
    at_once_working, basin_working, cut_list, drip_fault, drip_flow_working, drip_laid, drip_rate_working,
    emitter_flow, fine_flow, flush_working, injection_working, line_working, longest_working, row_end,
    row_ends, rows_at_once, store_figures, tubing_working, wetted_working,
};
pub use findings::{action, effect, finding, gives, regulator};
pub use help::{ENTRIES, Entry, HowTo, found, how_to};
pub use layout::{
    advice, alternative_minutes, drip_of_area, expected_working, how_laid_out, layout_fault, unreached,
    week_need,
};
pub use names::{fit, kind, method, nozzle, regulation as regulation_name, static_from};
pub use piping::{
    bad_place, depth, pipe_loss, pipe_velocity, pipes_said, place, route_fault, sizes_said, split_said,
    wire_said,
};
pub use planning::{choice, connections, lay_fault, made, ten_years};
pub use pricing::{
    against, estimate, first_cost, kit_offer, labour, money, price, quote_change, quote_section, saving,
    whole_money,
};
pub use quick::limit;
pub use regulation::{note, takes, way, why};
pub use runtime::{
    bound_by, broken, cycles, cycles_working, day_rule, how_often, interval_working, margin_said, minutes,
    minutes_working, month, need_working, round_water, saved_by_months, span, station_says, suspect,
    water_from, way_to_fit,
};
pub use said::{Said, counted, counted_or, day, day_of};
pub use takeoff::{
    bought, cut_label, not_counted, part_label, part_name, quantity, section, unit, why_so_many,
};
pub use throws::{pipe_title, throws_cell, throws_verdict, throws_working, tube_rule};
pub use water::{aim_note, curve_fault, curve_working, design_working, method_says, rule};
pub use working::{Working, capital, inside};
pub use zone::{head_workings, velocity_working, walk_note, walk_part, zone_fault, zone_workings};
pub use zoning::{apart, class_bound, later_said, more_valves, no_hope, valve_change};
