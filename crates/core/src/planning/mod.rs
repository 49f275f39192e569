//! A whole plan for drawn ground, from bare areas to sized pipe: the steps of a proposal in their order, and which
//! kinds of head they are taken with.
//!
//! What decides is one figure for all of it: parts, labour and ten years of water, of a plan without a finding to be
//! mended. Kinds are compared by it, each as a whole plan of its own where the ground is small enough for that.
//!
//! | file | idea |
//! |---|---|
//! | `kinds` | which kinds of head an area may have at all |
//! | `steps` | heads onto valves, boxes and pipe, sizes, regulators |
//! | `price` | what a plan costs over ten years, and what it lacks |
//! | `choose` | kinds laid out and compared as whole plans |

mod choose;
mod kinds;
mod price;
mod steps;

pub use choose::{Choice, Laid, LayFault, Made, Planned, Way, Wish, cheapest, plan};
pub use kinds::{KindFault, kinds};
pub use price::{TenYears, ten_years, with_planning_prices};
pub use steps::{Piped, Steps, carry_out};
