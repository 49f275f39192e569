//! Checks. Every finding carries the figures it rests on; what would mend it is computed on request
//! by solving the job with it applied.
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
//! | `remedy` | what mends a finding, and what it gives |
//! | `cures` | remedies of one zone |
//! | `piped` | remedies of drawn pipe |

mod arcs;
mod area;
mod assembly;
mod backflow;
mod check;
mod checker;
mod cures;
mod drip;
mod piped;
mod piping;
mod remedy;
mod store;
mod supply;
#[cfg(test)]
mod tests;
mod zone;

pub use area::area_findings;
pub use check::{BackflowFault, Check, Finding, Found, Severity};
pub use piping::piping_findings;
pub use remedy::{Action, Effect, Remedy, supply_found, zone_found};
pub use store::{StoreNeed, roof_catch, store_need};
pub use supply::{CODE_LIMIT_PSI, supply_findings};
pub use zone::zone_findings;
