//! What a person did, as a value: applied to a plan it gives the next plan and its own inverse.
//!
//! Each domain of the job owns its edits in a file of its own: what they change, what takes them
//! back, whom they touch, how the history calls them, and what of their domain can't be computed
//! with. The list at [`Edit`] is the only place that names them all; a kind of edit that is in it
//! does not compile until it has all of that, and the tests do not until it can be generated.

mod batch;
pub(super) mod ground;
pub(super) mod heads;
mod job;
mod listed;
pub(super) mod nozzles;
pub(super) mod parts;
pub(super) mod piping;
mod subject;
#[cfg(test)]
pub(crate) mod tests;
pub(super) mod valves;
pub(super) mod water;
pub(super) mod watering;

pub use batch::Batch;
pub use ground::{SetNorth, SetUnderlay};
pub use heads::AssignHeads;
pub use job::{SetJob, SetRules};
pub use listed::{Listed, Put, Remove};
pub use nozzles::SetFavourites;
pub use piping::SizeLegs;
pub use subject::Subject;
pub use valves::FitRegulation;
pub use water::PinDesignFlow;
pub use watering::{SetClimate, SetUsage, SetWatering};

use super::{
    DesignFlowMethod, DrawnHead, Fault, HeadGroup, HeadRef, Joint, PartLine, PipeLeg, Plan, Regulation,
    StationWish, Supply, Valve,
};
use crate::catalogue::OwnNozzle;
use crate::site::SiteObject;
use serde::{Deserialize, Serialize};

/// Why an edit can't be applied.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum EditError {
    /// What it changes is not there (any more).
    #[error("{what} ‘{id}’ is no longer in this job")]
    Missing {
        /// What it is, in words.
        what: &'static str,
        /// The name it was asked for by.
        id: String,
    },
    /// A point of connection still feeds valves.
    #[error("valves still use ‘{id}’. Move or delete them first")]
    StillUsed {
        /// The point of connection.
        id: String,
    },
    /// The plan would hold figures that can't be computed with.
    #[error("{}", .0.iter().map(ToString::to_string).collect::<Vec<_>>().join("; "))]
    Faults(Vec<Fault>),
}

/// One kind of change: all that the rest of the program asks of it.
pub trait Change {
    /// Changes the plan; gives the edit that takes it back.
    ///
    /// # Errors
    /// What it changes is not there. The plan may then be half changed: work on a copy.
    fn apply(&self, plan: &mut Plan) -> Result<Edit, EditError>;
    /// What it changes: two people's edits collide when these meet.
    fn subjects(&self) -> Vec<Subject>;
    /// What was done, for the history.
    fn words(&self) -> String;
}

/// Declares [`Edit`] with one variant for each kind of change, its name in files, and the one way
/// from the variant to what it does.
macro_rules! edits {
    ($($(#[$doc:meta])* $name:ident($kind:ty) = $wire:literal;)*) => {
        /// One change, as the log keeps it.
        #[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
        #[serde(tag = "edit")]
        pub enum Edit { $($(#[$doc])* #[serde(rename = $wire)] $name($kind),)* }

        impl Edit {
            /// Names of all kinds in files: they stay for ever.
            pub const KINDS: &'static [&'static str] = &[$($wire),*];

            /// Name of its kind in files.
            pub fn kind(&self) -> &'static str {
                match self { $(Self::$name(_) => $wire,)* }
            }

            fn change(&self) -> &dyn Change {
                match self { $(Self::$name(change) => change,)* }
            }
        }

        $(impl From<$kind> for Edit {
            fn from(change: $kind) -> Self {
                Self::$name(change)
            }
        })*

        /// Every kind of edit, made at random for the property tests.
        #[cfg(test)]
        pub(crate) fn any_edit() -> proptest::strategy::BoxedStrategy<Edit> {
            use proptest::strategy::{Strategy, Union};
            Union::new([$(<$kind as tests::Sample>::sample().prop_map(Edit::from).boxed()),*]).boxed()
        }
    };
}

edits! {
    /// Name, place, notes, units.
    SetJob(SetJob) = "set-job";
    /// The house's rules.
    SetRules(SetRules) = "set-rules";
    /// Adds a point of connection or replaces it.
    PutSupply(Put<Supply>) = "put-supply";
    /// Takes it away; its valves must be gone or moved first.
    RemoveSupply(Remove<Supply>) = "remove-supply";
    /// Pins a method of design flow, or none.
    PinDesignFlow(PinDesignFlow) = "pin-design-flow";
    /// Adds a group of heads or replaces it.
    PutGroup(Put<HeadGroup>) = "put-group";
    /// Takes a group away.
    RemoveGroup(Remove<HeadGroup>) = "remove-group";
    /// Adds a valve or replaces it.
    PutValve(Put<Valve>) = "put-valve";
    /// Takes a valve away; its heads are then on none.
    RemoveValve(Remove<Valve>) = "remove-valve";
    /// Puts heads on a valve, or on none.
    AssignHeads(AssignHeads) = "assign-heads";
    /// Fits, sets or removes the regulator of a zone.
    FitRegulation(FitRegulation) = "fit-regulation";
    /// Draws an object on the ground or replaces it.
    PutObject(Put<SiteObject>) = "put-thing";
    /// Takes an object off the ground. What refers to it counts as referring to nothing.
    RemoveObject(Remove<SiteObject>) = "remove-thing";
    /// Degrees from the top of the sheet to north, clockwise.
    SetNorth(SetNorth) = "set-north";
    /// Lays a picture beneath the drawing, or none.
    SetUnderlay(SetUnderlay) = "set-underlay";
    /// Places a head on the board or replaces it.
    PutHead(Put<DrawnHead>) = "put-head";
    /// Takes a head off the board.
    RemoveHead(Remove<DrawnHead>) = "remove-head";
    /// Adds a nozzle of the house or replaces it.
    PutNozzle(Put<OwnNozzle>) = "put-nozzle";
    /// Takes a nozzle of the house away; nothing may use it.
    RemoveNozzle(Remove<OwnNozzle>) = "remove-nozzle";
    /// Says which nozzles are on the truck.
    SetFavourites(SetFavourites) = "set-favourites";
    /// Puts a joint in the pipe or replaces it.
    PutJoint(Put<Joint>) = "put-joint";
    /// Takes a joint away.
    RemoveJoint(Remove<Joint>) = "remove-joint";
    /// Lays a pipe or replaces it.
    PutLeg(Put<PipeLeg>) = "put-leg";
    /// Takes a pipe away.
    RemoveLeg(Remove<PipeLeg>) = "remove-leg";
    /// Gives pipes their sizes.
    SizeLegs(SizeLegs) = "size-legs";
    /// Says what evaporates and what falls.
    SetClimate(SetClimate) = "set-climate";
    /// What the water supplier allows and what the controller can do.
    SetWatering(SetWatering) = "set-watering";
    /// The tariff and what the meter read.
    SetUsage(SetUsage) = "set-usage";
    /// Wishes for a station, or replaces them.
    PutStation(Put<StationWish>) = "put-station";
    /// Lets a station run as computed.
    RemoveStation(Remove<StationWish>) = "remove-station";
    /// Adds a line to the list of parts, or says another quantity of a counted one.
    PutPartLine(Put<PartLine>) = "put-part-line";
    /// Takes such a line away.
    RemovePartLine(Remove<PartLine>) = "remove-part-line";
    /// Several changes as one step.
    Batch(Batch) = "batch";
}

impl Edit {
    /// Adds a part at the end of its list, or replaces the one of its id.
    pub fn put<T: Listed>(part: T) -> Self {
        Self::put_at(part, None)
    }
    /// The same at a place of the list; at its end where none is said.
    pub fn put_at<T: Listed>(part: T, at: Option<usize>) -> Self {
        T::put(Put { owner: None, part, at })
    }
    /// Takes a part away.
    pub fn remove<T: Listed>(id: impl Into<String>) -> Self {
        T::remove(Remove::new(None, id.into()))
    }
    /// Places a head of a group, or replaces it.
    pub fn put_head(group: impl Into<String>, head: DrawnHead) -> Self {
        DrawnHead::put(Put { owner: Some(group.into()), part: head, at: None })
    }
    /// Takes a head of a group off the board.
    pub fn remove_head(group: impl Into<String>, id: impl Into<String>) -> Self {
        DrawnHead::remove(Remove::new(Some(group.into()), id.into()))
    }
    /// Puts heads on a valve, or on none.
    pub fn assign(heads: Vec<HeadRef>, valve: Option<String>) -> Self {
        Self::AssignHeads(AssignHeads { heads, valve })
    }
    /// Fits a regulation to a valve.
    pub fn fit(valve: impl Into<String>, regulation: Regulation) -> Self {
        Self::FitRegulation(FitRegulation { valve: valve.into(), regulation })
    }
    /// Pins a method of design flow, or none.
    pub fn pin(supply: impl Into<String>, method: Option<DesignFlowMethod>) -> Self {
        Self::PinDesignFlow(PinDesignFlow { supply: supply.into(), method })
    }
    /// Several changes as one step.
    pub fn batch(edits: Vec<Self>) -> Self {
        Self::Batch(Batch { edits })
    }

    /// What it changes.
    pub fn subjects(&self) -> Vec<Subject> {
        self.change().subjects()
    }
    /// For the history: what was done, in words.
    pub fn describe(&self) -> String {
        self.change().words()
    }
}

/// Applies an edit without looking at the figures: for edits that were accepted before.
///
/// # Errors
/// What it changes is not there.
pub(crate) fn replay(plan: &mut Plan, edit: &Edit) -> Result<Edit, EditError> {
    edit.change().apply(plan)
}
