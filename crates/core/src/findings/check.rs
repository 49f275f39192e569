use super::share::Apart;
use crate::assembly::AssemblyFault;
use crate::catalogue::{Kind, PressureBand};
use crate::coverage::{Direction, Expected, Unreached};
use crate::earthwork::BadPlace;
use crate::plan::DripSchool;
use crate::site::Soil;
use crate::terms::{Lang, term};
use crate::units::{Flow, Length, Pressure, Rate, Speed, Surface, Volume};
use crate::water::{CurveFault, CurveFrom, DesignFlow, SharedVelocity};
use crate::zone::{RegulatorPart, Standing, ZoneFault};

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
    /// Not planned yet.
    Open,
}

impl Severity {
    /// The tag that stands before a finding.
    pub fn name(self, lang: Lang) -> &'static str {
        let key = match self {
            Self::Stop => "severity.stop",
            Self::Fix => "severity.fix",
            Self::Watch => "severity.watch",
            Self::Open => "severity.open",
        };
        term(key, lang)
    }
}

/// Something a check has to say.
#[derive(Debug, Clone, PartialEq)]
pub struct Finding {
    /// What was found, with the figures it rests on.
    pub check: Check,
    /// How much it matters.
    pub severity: Severity,
}

impl Finding {
    pub(crate) fn new(severity: Severity, check: Check) -> Self {
        Self { check, severity }
    }
    /// Its stable name, e.g. `head-starved`.
    pub fn code(&self) -> &'static str {
        self.check.code()
    }
}

/// Why a backflow device can't protect where it stands.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum BackflowFault {
    /// It protects only its own valve, behind it, and there are valves behind it here.
    OnlyItsValve,
    /// It protects only what hangs on a hose bib.
    OnlyHoseBib,
    /// It must stand above the highest outlet.
    BelowHeads {
        /// How far the highest outlet stands above the ground at the device.
        highest: Length,
        /// Height over it that is commonly wanted.
        over: Length,
    },
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
    /// The curve is read far beyond the largest flow that was run, or from a drop that a gauge hardly shows.
    ReadingsStretched = "readings-stretched" {
        /// The largest flow that was run.
        run: Flow,
        /// What the gauge dropped by then.
        drop: Pressure,
        /// The flow that the curve is asked for.
        asked: Flow,
        /// What one psi of gauge error makes there.
        error: Pressure,
    }
    /// Nothing but the static pressure is known.
    StaticOnly = "static-only" {
        /// That pressure.
        static_pressure: Pressure,
        /// At a hose bib.
        tap: bool,
    }
    /// No backflow protection in the chain.
    NoBackflow = "no-backflow" {}
    /// Something is put into the water, and what stands there does not keep it from the drinking water.
    InjectionUnprotected = "injection-unprotected" {
        /// What stands there, named for people; none: nothing.
        device: Option<String>,
    }
    /// A store that does not last from one watering to the next day.
    StoreSmall = "store-small" {
        /// What it holds.
        holds: Volume,
        /// What a day of the peak week takes.
        day: Volume,
    }
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
        /// By the house's rule: nobody read it.
        assumed: bool,
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
        /// What the tubing must hold.
        standing: Standing,
        /// What tubing and fittings are rated for.
        rating: Pressure,
        /// Bodies that regulate sprinklers mean nothing to it.
        bodies: bool,
    }
    /// More reaches a closed end than tubing and fittings are rated for.
    DripOverRating = "drip-over-rating" {
        /// What the tubing must hold.
        standing: Standing,
        /// The rating.
        rating: Pressure,
    }
    /// A preset so near to the rating that its own tolerance goes over it.
    DripNearRating = "drip-near-rating" {
        /// What the tubing must hold.
        standing: Standing,
        /// The rating.
        rating: Pressure,
    }
    /// While it is flushed the water crawls at the row ends.
    DripFlushSlow = "drip-flush-slow" {
        /// The group.
        group: String,
        /// Its name.
        name: String,
        /// The slowest at a row end.
        slowest: Speed,
        /// What is wanted there.
        wanted: Speed,
        /// What runs out of the flush valve.
        out: Flow,
        /// At the inlet meanwhile.
        inlet: Pressure,
    }
    /// Emitters or rows farther apart than the soil carries water.
    DripSpacing = "drip-spacing" {
        /// The group.
        group: String,
        /// Its name.
        name: String,
        /// Rows, else emitters along a row.
        rows: bool,
        /// How far apart they are.
        apart: Length,
        /// As far as the soil carries.
        widest: Length,
        /// The soil.
        soil: Soil,
    }
    /// Rows run down a slope.
    DripDownhill = "drip-downhill" {
        /// The group.
        group: String,
        /// Its name.
        name: String,
        /// Percent that the rows fall.
        fall: f64,
        /// Over the longest row.
        height: Length,
        /// It is tape, which bears no slope.
        tape: bool,
    }
    /// Rings behind single emitters with too little pressure in them to stay even.
    RingUneven = "ring-uneven" {
        /// The group.
        group: String,
        /// Its name.
        name: String,
        /// Emitters in the ring with the least.
        emitters: u32,
        /// What is left in it.
        left: Pressure,
    }
    /// Micro tube longer than it carries water.
    MicroTubeLong = "micro-tube-long" {
        /// The group.
        group: String,
        /// Its name.
        name: String,
        /// The longest.
        longest: Length,
        /// As far as is usual.
        usual: Length,
    }
    /// A part of the assembly that is wrong where it stands.
    Assembly = "assembly" {
        /// The part, named for people.
        part: String,
        /// What is wrong.
        fault: AssemblyFault,
    }
    /// With its filter dirty the zone falls below its aim.
    DirtyFilter = "dirty-filter" {
        /// What the last head gets with the filter clean.
        clean: Pressure,
        /// The same with it dirty.
        dirty: Pressure,
        /// What a dirty filter costs more.
        more: Pressure,
        /// What is aimed at.
        aim: Pressure,
    }
    /// The last head gets less than is aimed at, but within its band.
    BelowAim = "below-aim" {
        /// What it gets.
        gets: Pressure,
        /// What is aimed at.
        aim: Pressure,
        /// What its class is made for.
        band: PressureBand,
    }
    /// Nothing but more pressure helps: not one head of the zone gets the bottom of its band.
    BoosterNeeded = "booster-needed" {
        /// What is missing for one head at the bottom of its band.
        missing: Pressure,
        /// What a booster would have to pass: all heads at the aim.
        flow: Flow,
        /// What it would have to add.
        boost: Pressure,
        /// What is aimed at.
        aim: Pressure,
    }
    /// Heads on one valve at very different heights.
    HeightOnValve = "height-on-valve" {
        /// Between the highest and the lowest.
        range: Length,
        /// From here on it is said.
        limit: Length,
        /// Bodies even the pressure out.
        bodies: bool,
        /// Rows of drip drain through their lowest emitters.
        drip: bool,
    }
    /// Arcs of one nozzle that does not give its flow by the arc.
    ArcsUnmatched = "arcs-unmatched" {
        /// The group's name.
        group: String,
        /// The group's id.
        id: String,
        /// Each arc in degrees with the flow of its heads.
        arcs: Vec<(u16, Flow)>,
        /// Highest rate over the lowest.
        ratio: f64,
    }
    /// Listed heads that, spaced as they are, do not cover their drawn area.
    AreaNotCovered = "area-not-covered" {
        /// The group's name.
        group: String,
        /// What they cover at their spacing.
        covered: Surface,
        /// Their area.
        area: Surface,
    }
    /// Heads set to an arc that is not made.
    ArcNotMade = "arc-not-made" {
        /// The group's name.
        group: String,
        /// How many heads.
        heads: usize,
        /// The first of those arcs, degrees.
        arc: u16,
        /// Arcs that are made: from, to, and the full circle.
        made: (u16, u16),
    }
    /// A pipe that all valves share runs too fast with this zone.
    ServiceVelocity = "service-velocity" {
        /// The pipe.
        shared: SharedVelocity,
        /// What runs.
        flow: Flow,
        /// What a valve that closes at once would add, at the most.
        surge: Pressure,
    }
    /// A backflow device is smaller than the flow of the largest zone wants.
    DeviceTooSmall = "device-too-small" {
        /// Its place in the chain, by its id there.
        item: String,
        /// The device, for people.
        device: String,
        /// The largest zone's flow.
        flow: Flow,
        /// What it is made for at the most.
        most: Flow,
        /// What it takes at that flow.
        loss: Pressure,
    }
    /// A system regulator set to what it can't be set to.
    SystemRange = "system-regulator-range" {
        /// Its set point.
        set: Pressure,
        /// From, to.
        range: (Pressure, Pressure),
    }
    /// A system regulator whose place or pressure does not let it work.
    SystemNoRoom = "system-regulator-no-room" {
        /// What arrives at it with the largest zone running.
        inlet: Pressure,
        /// Its set point.
        set: Pressure,
        /// The room wanted.
        wanted: Pressure,
    }
    /// A backflow device that can't protect where it stands.
    BackflowPlace = "backflow-place" {
        /// The device, by its label in the catalogue.
        device: String,
        /// Why.
        why: BackflowFault,
    }
    /// A pump that would start and stop.
    PumpCycles = "pump-cycles" {
        /// What the zone takes.
        flow: Flow,
        /// Least that the pump may give for long.
        least: Flow,
    }
    /// More valves than the controller has stations.
    TooFewStations = "too-few-stations" {
        /// Valves.
        valves: usize,
        /// Stations.
        stations: u32,
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
        /// In which direction.
        along: Direction,
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
    /// Pipe under a building, a wall, a neighbour's ground or what is marked as not to be dug.
    PipeUnder = "pipe-under" {
        /// The pipe.
        leg: String,
        /// What it runs under.
        what: String,
        /// For how long.
        length: Length,
    }
    /// Pipe within half the canopy of a tree.
    PipeThroughRoots = "pipe-through-roots" {
        /// The pipe.
        leg: String,
        /// The tree.
        what: String,
        /// For how long.
        length: Length,
    }
    /// Pipe under paving without a sleeve.
    UnsleevedCrossing = "unsleeved-crossing" {
        /// The pipe.
        leg: String,
        /// The paving.
        what: String,
        /// For how long.
        length: Length,
    }
    /// Pipe that lies where it freezes, and nothing drains it.
    AboveFrost = "above-frost" {
        /// The pipe.
        leg: String,
        /// Its depth.
        depth: Length,
        /// The depth of frost or the code's least.
        frost: Length,
    }
    /// A valve that its drawn main does not reach.
    OffMain = "off-main" {}
    /// Heads that the drawn lateral of their valve does not reach.
    HeadOffLateral = "head-off-lateral" {
        /// How many.
        heads: usize,
        /// Of how many.
        of: usize,
    }
    /// A lateral well over the shortest connection of its heads.
    LateralLong = "lateral-long" {
        /// Pipe drawn.
        pipe: Length,
        /// Of that in the trenches of other pipes.
        follows: Length,
        /// What it counts as: there a metre by the share that pipe has of the cost of a metre with its trench.
        counts: Length,
        /// The shortest straight connection.
        needs: Length,
    }
    /// A valve box that stands badly.
    BoxMisplaced = "box-misplaced" {
        /// The box.
        name: String,
        /// Why.
        why: BadPlace,
    }
    /// More valves and filters in a box than it takes.
    BoxFull = "box-full" {
        /// The box's id.
        place: String,
        /// Its name.
        name: String,
        /// Valves in it.
        valves: usize,
        /// Filters that are opened in it.
        filters: usize,
        /// Places of the largest box: one for each valve, one to draw out each filter.
        most: usize,
    }
    /// Pipes or parts meet that the catalogue has no fitting for.
    JointUnmade = "joint-unmade" {
        /// Where: the id of a node, leg or valve on the plan.
        at: String,
        /// What would be wanted, for people.
        wanted: String,
    }
    /// Water that lies unevenly.
    Uneven = "uneven" {
        /// Distribution uniformity of the lowest quarter with perfect heads in still air.
        ideal: f64,
        /// The same as an audit would find it.
        expected: Expected,
        /// What is aimed at for the kind.
        aim: f64,
        /// The kind of head.
        kind: Kind,
    }    /// An area that nothing waters yet.
    AreaEmpty = "area-empty" {
        /// The area.
        name: String,
    }
    /// Heads on no valve.
    HeadsWithoutValve = "heads-without-valve" {
        /// How many.
        heads: usize,
    }
    /// A valve that waters nothing.
    ValveWithoutHeads = "valve-without-heads" {}
    /// A valve that no main leads to.
    ValveWithoutMain = "valve-without-main" {}
    /// Drawn heads whose pipe is not drawn.
    ValveWithoutLateral = "valve-without-lateral" {}
    /// Wire that can't be counted.
    WireNotCounted = "wire-not-counted" {
        /// Valves that no main reaches; none: no controller or no main is drawn.
        valves: Option<usize>,
    }
    /// A zone that could not be worked out.
    ZoneUnsolved = "zone-unsolved" {
        /// Why.
        why: ZoneFault,
    }
    /// The stations of the peak month take longer than the window.
    NightTooLong = "night-too-long" {
        /// When the last ends, minutes after the window opens.
        finish: u32,
        /// How long the window is, minutes.
        window: u32,
    }
    /// Starts that somebody set run stations together that may not, or in closed hours.
    NightBroken = "night-broken" {
        /// How many times.
        times: usize,
    }
    /// Run times without a climate.
    NoClimate = "no-climate" {}
}
