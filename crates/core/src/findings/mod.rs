//! Checks. Every finding carries the figures it rests on; what would mend it is the concern of
//! [`crate::remedies`].
//!
//! | file | idea |
//! |---|---|
//! | `check` | what can be found, with its figures |
//! | `checker` | a valve with all that its checks look at |
//! | `supply`, `zone`, `area` | the checks of a point of connection, of a valve, of an area's heads |
//! | `backflow`, `drip`, `arcs` | devices by place and height; drip; heads of a group against each other |
//! | `assembly` | the parts of a zone, in their order |
//! | `piping` | drawn pipe: where it lies, what it leaves out |
//! | `store` | what a tank lasts for |
//! | `share` | what may share a valve, and why not |

mod arcs;
mod area;
mod assembly;
mod backflow;
mod check;
mod checker;
mod drip;
mod piping;
mod share;
mod store;
mod supply;
#[cfg(test)]
pub(crate) mod tests;
mod zone;

pub use area::area_findings;
pub(crate) use area::{near_the_edge, out_of_adjustment};
pub use check::{BackflowFault, Check, Finding, Severity};
pub use piping::piping_findings;
pub use share::{Apart, ApartReason, HEIGHT_APART_FT, Weight, reasons_apart};
pub use store::{StoreNeed, roof_catch, store_need};
pub use supply::{CODE_LIMIT_PSI, supply_findings};
pub use zone::{OVER_NOMINAL, hydraulic_findings, regulator_holds, zone_findings};
