//! The ground that pipe lies in: what may be dug, what is dug for drawn pipe, where boxes stand and what they
//! take.
//!
//! | file | idea |
//! |---|---|
//! | `ground` | what may be dug, and what a straight trench costs |
//! | `trench` | what is dug, shared trenches once, and what all of it costs |
//! | `follows` | laterals that lie in the trenches of other pipes |
//! | `spanning` | the shortest connection of points |
//! | `standing` | where a box can stand |
//! | `room` | what a box takes |

mod follows;
mod ground;
mod room;
mod spanning;
mod standing;
mod trench;

pub use follows::{Follows, follows};
pub(crate) use follows::{Stretch, stretches};
pub use ground::{Cover, Ground, Portal};
pub use room::{BoxSize, Contents, MOST_PLACES, is_boxed, shared_out};
pub use spanning::spanning_length;
pub use standing::{BadPlace, bad_place};
pub use trench::{Costs, Crossing, Earthwork, Trench, costs, depth_of, earthwork, pipe_price};
pub(crate) use trench::{beside, gaps, trench_price};
