//! Drip, laid to the last emitter: rows over an area, emitters at plants.
//!
//! What the plan keeps are choices ([`crate::plan::DripLaying`]); tubes and emitters follow from them and
//! from the ground, the same for the same ground. [`crate::zone`] solves what is laid here.
//!
//! | file | idea |
//! |---|---|
//! | `choose` | what soil, slope and plants ask for |
//! | `ground` | what of an area takes drip, turned along its rows |
//! | `rows` | rows cut to the ground, emitters on them, staggered |
//! | `grid` | rows joined by headers, or one line snaked and led back |
//! | `plants` | emitters at plants and the line past them |
//! | `design` | an area's drip from a few wishes, as one edit; ways to join rows compared |
//! | `laid` | what comes out: joints, tubes, emitters, and their counts |
//! | `lay` | a group laid, part by part |
//! | `fed` | rings that one emitter feeds |
//! | `open` | open micro tube |
//! | `longest` | how long a row may be |
//! | `table` | longest rows by inlet pressure, spacing and slope |
//! | `wetted` | how wide an emitter wets the soil |

mod choose;
mod design;
mod fed;
mod grid;
mod ground;
mod laid;
mod lay;
mod longest;
mod open;
mod plants;
mod rows;
mod table;
#[cfg(test)]
pub(crate) mod tests;
mod wetted;

pub use choose::{Choice, choose, least_bend};
pub use design::{DripDesign, DripWish, EndsWay, design, most_of_row, usual_kind, ways_to_join};
pub use fed::{EVEN_FROM_PSI, FedRing, RingTooTight, fed_ring};
pub use laid::{Fittings, Laid, LaidEmitter, LaidJoint, LaidPlant, LaidRow, Part, Stuff, Tube};
pub use lay::{DripFault, inlet_flows, lay, tube_of};
pub use longest::{LongestRow, RowAsk, RowEnd, longest_row};
pub use open::{open_end, open_tube};
pub use plants::emitters_for;
pub use table::{RowTable, row_ask, row_table};
pub use wetted::{FlatEstimate, estimate, minutes_to_wet, wetted_width, widest_spacing};
