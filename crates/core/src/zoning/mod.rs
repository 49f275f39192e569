//! What may share a valve, and the split of the heads into valves.
//!
//! | file | idea |
//! |---|---|
//! | `class` | heads that may share, and the least number of valves they take |
//! | `fit` | how many heads fit on a valve, and what stops one more |
//! | `whole` | areas kept whole: which share a valve |
//! | `keep` | what a new split keeps of what was decided |
//! | `changes` | what a split would change, valve by valve |
//! | `later` | what is kept back for areas that come later |
//! | `place` | heads with places cut into zones that lie together |
//! | `split` | classes into valves of even flow, each checked by solving it |

mod changes;
mod class;
mod fit;
mod keep;
mod later;
mod place;
mod split;
#[cfg(test)]
mod tests;
mod whole;

pub use changes::{ValveChange, ValveState, changes};
pub use class::{Bound, ClassBound, Water, lower_bound};
pub use fit::{Fit, Fits, Limit, fit, stops};
pub use later::{LaterArea, Stub, later_areas};
pub use split::{
    Hopeless, MoreValves, NoHope, Proposal, Scope, Unfit, propose, propose_watched, put_on_valves,
    remove_group,
};
