use crate::catalogue::Kind;
use crate::earthwork::Contents;
use crate::findings::Finding;
use crate::plan::{Edit, Regulation};
use crate::units::{Flow, Length, Pressure, Speed};

/// A finding with what would mend it.
#[derive(Debug, Clone, PartialEq)]
pub struct Diagnosis {
    /// The finding.
    pub finding: Finding,
    /// What would mend it, the best first.
    pub remedies: Vec<Remedy>,
}

/// What to do.
#[derive(Debug, Clone, PartialEq)]
pub enum Action {
    /// Feed the row in its middle, with so much more pipe.
    FeedInMiddle(Length),
    /// The whole lateral in a larger pipe, named for people.
    Lateral(String),
    /// The first leg in a larger pipe, named for people.
    FirstLeg(String),
    /// Half of the heads on a valve of their own.
    SplitInTwo,
    /// A valve of its own for an area, by its name.
    OwnValve(String),
    /// Fit a regulation to so many heads.
    Fit(Regulation, usize),
    /// Take a valve for little flow.
    LowFlowValve,
    /// Put a filter behind the valve.
    Filter,
    /// Lay rows, or take emitters, no farther apart.
    DripCloser {
        /// Rows, else emitters.
        rows: bool,
        /// No farther than this.
        apart: Length,
    },
    /// Lay the drip in so many parts, each on a valve of its own.
    DripParts(usize),
    /// Lay rows along the contour.
    DripAlongContour,
    /// Take a larger filter, by its label.
    LargerFilter(String),
    /// Give each arc its own nozzle, by the nozzles' ids.
    MatchArcs(Vec<(u16, String)>),
    /// Set arcs that are not made to the nearest that is, degrees.
    SetArcs(u16),
    /// Set the system regulator to this.
    SetSystem(Pressure),
    /// Put a reducing valve into the chain.
    SystemRegulator(Pressure),
    /// Take a larger backflow device, by its label.
    LargerDevice(String),
    /// Lay out the same kind anew.
    LayOutAnew(Kind),
    /// Set throws to what their nozzles can.
    SetThrows,
    /// Move heads off the edge.
    MoveIn,
    /// Lay the lateral anew.
    Reroute,
    /// Put so many legs into sleeves where they cross paving.
    Sleeves(usize),
    /// Lay it so deep.
    Deeper(Length),
    /// Set a second box beside a full one.
    SecondBox,
}

/// What it gives, computed by solving the job with it applied.
#[derive(Debug, Clone, PartialEq)]
pub enum Effect {
    /// Pressure at the last head.
    LastHead(Pressure),
    /// Velocity, and pressure at the last head.
    VelocityAndLastHead(Speed, Pressure),
    /// Flow and last head of each of two zones.
    TwoZones([(Flow, Pressure); 2]),
    /// Flow that stays here, and flow of the new zone.
    HereAndThere(Flow, Flow),
    /// Lowest and highest head.
    Range(Pressure, Pressure),
    /// It caps what reaches the valves.
    Caps,
    /// So many zones of all are then below their band.
    Starved(usize, usize),
    /// Heads, DU and share on what is kept dry of a new layout.
    Layout {
        /// Heads.
        heads: usize,
        /// Distribution uniformity of the lowest quarter.
        du: f64,
        /// Share of the water, 0 to 1.
        on_dry: f64,
    },
    /// Highest rate of the arcs over the lowest.
    RateRatio(f64),
    /// Throws from the least to the full.
    Throws(Length, Length),
    /// Distance to the edge.
    OffEdge(Length),
    /// Pipe of the lateral then, and now.
    Pipe {
        /// Then.
        becomes: Length,
        /// Now.
        was: Length,
    },
    /// So much pipe under paving in sleeves.
    Sleeved {
        /// Its length.
        length: Length,
    },
    /// So many legs.
    Legs(usize),
    /// What stays in a box, and what goes to the one beside it.
    Boxes(Contents, Contents),
}

/// A change that mends a finding.
#[derive(Debug, Clone, PartialEq)]
pub struct Remedy {
    /// What to do.
    pub action: Action,
    /// What it gives.
    pub effect: Effect,
    /// The change.
    pub edit: Edit,
    /// False where it helps, but not enough alone.
    pub mends: bool,
    /// What it brings with it that is as bad, where nothing better is known.
    pub costs: Vec<Finding>,
}

impl Remedy {
    /// One that mends, until it is tried on the whole job.
    pub fn new(action: Action, effect: Effect, edit: Edit) -> Self {
        Self { action, effect, edit, mends: true, costs: Vec::new() }
    }
}
