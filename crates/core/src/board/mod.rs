//! What hands do on the board, as edits. A gesture names what was touched and how; the edit that it
//! becomes is worked out on the plan as it stands, so that gestures made while the server was away
//! can be sent later in their order.

mod draft;
mod gesture;
mod heads;
mod objects;
#[cfg(test)]
mod tests;

pub use gesture::pipes::lay_pipes;
pub use gesture::{Gesture, GestureFault, NewKind};
pub(crate) use heads::new_group;
pub use objects::save_object;
