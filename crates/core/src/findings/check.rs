use super::Remedy;
use crate::catalogue::PressureBand;
use crate::layout::Unreached;
use crate::plan::DripSchool;
use crate::units::{Flow, Length, Pressure, Rate, Speed};
use crate::water::{CurveFault, CurveFrom, DesignFlow};
use crate::zone::RegulatorPart;
use crate::zoning::Apart;

/// How much a finding matters.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, serde::Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Severity {
    /// It won't work, or may hurt.
    Stop,
    /// It works badly.
    Fix,
    /// Keep an eye on it.
    Watch,
}

/// Something a check has to say.
#[derive(Debug, Clone, PartialEq)]
pub struct Finding {
    /// What was found, with the figures it rests on.
    pub check: Check,
    /// How much it matters.
    pub severity: Severity,
}

/// A finding with what would mend it.
#[derive(Debug, Clone, PartialEq)]
pub struct Found {
    /// The finding.
    pub finding: Finding,
    /// What would mend it, the likeliest first.
    pub remedies: Vec<Remedy>,
}

impl Finding {
    pub(super) fn new(severity: Severity, check: Check) -> Self {
        Self { check, severity }
    }
    /// Its stable name, e.g. `head-starved`.
    pub fn code(&self) -> &'static str {
        self.check.code()
    }
}

/// Declares [`Check`] with the stable name of each of its variants.
macro_rules! checks {
    ($($(#[$doc:meta])* $name:ident = $code:literal $body:tt)*) => {
        /// What can be found, with the figures it rests on.
        #[derive(Debug, Clone, PartialEq)]
        pub enum Check { $($(#[$doc])* $name $body,)* }

        impl Check {
            /// Stable names of all checks.
            pub const CODES: &'static [&'static str] = &[$($code),*];

            /// The stable name of this one.
            pub fn code(&self) -> &'static str {
                match self { $(Self::$name { .. } => $code,)* }
            }
        }
    };
}

checks! {
    /// No supply curve.
    WaterUnknown = "water-unknown" {
        /// The point of connection.
        supply: String,
        /// Why.
        fault: CurveFault,
    }
    /// Static pressure over what plumbing codes commonly allow a building.
    StaticHigh = "static-high" {
        /// The static pressure.
        static_pressure: Pressure,
        /// The usual limit.
        limit: Pressure,
    }
    /// One reading lies far off the curve through all of them.
    ReadingsScatter = "readings-scatter" {
        /// How far.
        residual: Pressure,
        /// What the curve was fitted to.
        pairs: Vec<(Flow, Pressure)>,
        /// How it came about.
        from: CurveFrom,
        /// The static pressure of the curve.
        static_pressure: Pressure,
    }
    /// Nothing but the static pressure is known.
    StaticOnly = "static-only" {
        /// That pressure.
        static_pressure: Pressure,
    }
    /// No backflow protection in the chain.
    NoBackflow = "no-backflow" {}
    /// No flow is left at the pressure that the neediest zone wants.
    NoFlow = "no-flow" {
        /// What every method says.
        design: DesignFlow,
    }
    /// The worst head gets less than the least of its band.
    HeadStarved = "head-starved" {
        /// What arrives at its nozzle.
        arrives: Pressure,
        /// At its inlet.
        inlet: Pressure,
        /// What its class is made for.
        band: PressureBand,
        /// Before the lateral.
        before_lateral: Pressure,
    }
    /// The best head gets well over nominal.
    PressureHigh = "pressure-high" {
        /// What it gets.
        highest: Pressure,
        /// What its class is made for.
        band: PressureBand,
        /// What the zone takes.
        flow: Flow,
        /// What it would take at nominal.
        nominal_flow: Flow,
        /// Bubblers do not fog: their basins overflow.
        bubbler: bool,
    }
    /// The zone takes more than the design flow.
    FlowOverDesign = "flow-over-design" {
        /// Its heads.
        heads: usize,
        /// What it takes.
        flow: Flow,
        /// What the supply is designed for.
        design: Flow,
    }
    /// Best and worst head are far apart.
    Spread = "spread" {
        /// Worst.
        lowest: Pressure,
        /// Best.
        highest: Pressure,
        /// Nominal of the worst.
        nominal: Pressure,
        /// (highest - lowest) / nominal.
        spread: f64,
        /// The house's limit for it.
        limit: f64,
    }
    /// A pipe runs too fast.
    Velocity = "velocity" {
        /// How fast.
        velocity: Speed,
        /// From here to watch.
        watch: Speed,
        /// From here to stop.
        stop: Speed,
        /// In the first leg rather than further on.
        first_leg: bool,
        /// What the zone takes.
        flow: Flow,
    }
    /// A regulator has less than its working room.
    NoRoom = "regulator-no-room" {
        /// The regulator.
        part: RegulatorPart,
        /// What arrives at it.
        inlet: Pressure,
        /// Its set point.
        set: Pressure,
        /// The room wanted.
        wanted: Pressure,
        /// The room there is.
        room: Pressure,
    }
    /// A regulator's flow is not one it is made for.
    RegulatorFlow = "regulator-flow" {
        /// The regulator.
        part: RegulatorPart,
        /// What runs.
        flow: Flow,
        /// Least it is made for.
        least: Flow,
        /// Most it is made for.
        most: Flow,
    }
    /// Too little flow for the valve to close reliably.
    ValveMinFlow = "valve-min-flow" {
        /// The valve, by its label in the catalogue.
        valve: String,
        /// What runs.
        flow: Flow,
        /// What it needs.
        least: Flow,
    }
    /// Two areas on a valve that can't share it.
    MixedNever = "mixed-never" {
        /// One.
        a: String,
        /// The other.
        b: String,
        /// Group id of the other.
        group: String,
        /// Why.
        reasons: Vec<Apart>,
        /// Highest rate on the valve over the lowest.
        rate_ratio: f64,
    }
    /// Two areas on a valve that had better not share it.
    Mixed = "mixed" {
        /// One.
        a: String,
        /// The other.
        b: String,
        /// Group id of the other.
        group: String,
        /// Why.
        reasons: Vec<Apart>,
        /// Highest rate on the valve over the lowest.
        rate_ratio: f64,
    }
    /// Drip without a filter, against the house's rule.
    DripNoFilter = "drip-no-filter" {
        /// The rule.
        school: DripSchool,
    }
    /// Drip without a regulator, against the house's rule.
    DripNoRegulator = "drip-no-regulator" {
        /// The rule.
        school: DripSchool,
        /// What reaches a closed end.
        dead_end: Pressure,
        /// What tubing and fittings are rated for.
        rating: Pressure,
    }
    /// More reaches a closed end than tubing and fittings are rated for.
    DripOverRating = "drip-over-rating" {
        /// What reaches it.
        arrives: Pressure,
        /// The rating.
        rating: Pressure,
    }
    /// Heads that do not reach their neighbours.
    NotHeadToHead = "not-head-to-head" {
        /// How many.
        heads: usize,
        /// Of how many.
        of: usize,
        /// The widest gap.
        gap: Length,
        /// The throw there.
        throw: Length,
    }
    /// Water on what is to be kept dry.
    ThrowOverDry = "throw-over-dry" {
        /// Share of the water, 0 to 1.
        share: f64,
        /// Where most of it lands.
        worst: String,
        /// What lands there.
        on_worst: Flow,
        /// What the heads give.
        flow: Flow,
    }
    /// Throws that the nozzle can't be set to.
    BeyondAdjustment = "beyond-adjustment" {
        /// How many heads.
        heads: usize,
        /// What the first is set to.
        set: Length,
        /// Its nozzle's id.
        nozzle: String,
        /// Least that it can.
        least: Length,
        /// Its full throw.
        full: Length,
    }
    /// Heads outside their band.
    WrongPressure = "wrong-pressure" {
        /// How many.
        heads: usize,
        /// What the worst gets.
        worst: Pressure,
        /// What its class is made for.
        band: PressureBand,
    }
    /// Kinds that apply water at different rates on one area.
    MixedRates = "mixed-rates" {
        /// Highest.
        high: Rate,
        /// Lowest.
        low: Rate,
    }
    /// Heads nearer to an edge than a hand's breadth.
    AtTheEdge = "at-the-edge" {
        /// How many.
        heads: usize,
        /// Of how many.
        of: usize,
        /// The nearest.
        nearest: Length,
        /// What is wanted.
        wanted: Length,
    }
    /// A part of the area that gets next to nothing.
    UnwateredPart = "unwatered-part" {
        /// The largest such part.
        part: Unreached,
        /// How many there are.
        parts: usize,
        /// Share of the area, 0 to 1.
        share: f64,
    }
    /// Water that lies unevenly.
    Uneven = "uneven" {
        /// Distribution uniformity of the lowest quarter.
        du: f64,
    }
}
