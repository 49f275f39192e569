//! From the plan to what is bought, cut, dug and set out. Nothing is counted by hand.
//!
//! The pipe that is bought is one graph ([`net`](self)): what is drawn, what hangs straight where nothing is
//! drawn, and what is only listed. Fittings follow from its nodes, cut lengths from its legs, the rest from
//! heads, valves, drip and wire as they are solved.
//!
//! | file | idea |
//! |---|---|
//! | `line` | a line of the list, why so many, and the tally |
//! | `net` | all pipe as one graph |
//! | `joints` | the fittings of a node, and what can't be joined |
//! | `lengths` | sticks, coils, and the cut list |
//! | `cutting` | few sticks, little coil, with their bounds |
//! | `heads` | bodies, nozzles, swing joints |
//! | `zones` | valves, assemblies, boxes, the connection |
//! | `drip` | tube, emitters, micro tube, stakes, plugs |
//! | `field` | wire, controller, cement, tape, gravel |
//! | `dig` | the trench list |
//! | `setting` | the setting-out sheet |
//! | `take` | all of it |

mod cutting;
mod dig;
mod drip;
mod field;
mod heads;
mod joints;
mod lengths;
mod line;
mod missing;
mod net;
mod setting;
mod take;
#[cfg(test)]
mod tests;
mod zones;

pub use cutting::{Coils, Cuts, cut_coils, cut_sticks};
pub use dig::{DigRow, Digging, digging};
pub use drip::{MicroTube, RowCut};
pub use joints::Unmade;
pub use lengths::{Bar, CutList, Piece, PieceCost};
pub use line::{How, Line, LineKind, Reason, Unit, size_for_people};
pub use missing::Missing;
pub use setting::{SetHead, SettingOut, setting_out};
pub use take::{Takeoff, takeoff, takeoff_priced};
