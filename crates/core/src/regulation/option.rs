use crate::findings::OVER_NOMINAL;
use crate::plan::{Edit, HouseRules, Regulation};
use crate::units::{Flow, Pressure};
use crate::zone::ZoneAssessment;
use rust_decimal::Decimal;

/// A way to regulate.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Way {
    /// As the zone is.
    AsIs(Regulation),
    /// Fitted anew to the zone; `Regulation::None` takes away what is there.
    Fit(Regulation),
    /// A reducing valve for the whole point of connection.
    System(Pressure),
}

/// What a way does elsewhere, or can't do here.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum OptionNote {
    /// Less arrives than set point and room.
    NoRoom {
        /// What arrives.
        inlet: Pressure,
        /// The set point.
        set: Pressure,
        /// The room wanted over it.
        wanted: Pressure,
    },
    /// It has its room.
    Room(Pressure),
    /// The zone's flow is not one it is made for.
    OutsideBand {
        /// Of the zone.
        flow: Flow,
        /// Least it is made for.
        least: Flow,
        /// Most it is made for.
        most: Flow,
    },
    /// The last head starves.
    LastHeadStarves {
        /// What it gets.
        gets: Pressure,
        /// The least of its band.
        needs: Pressure,
    },
    /// Heads still get more than their best by a share, and use so much more water.
    StillOver {
        /// Pressure over the best, 0.2: a fifth.
        pressure: f64,
        /// Water over nominal.
        water: f64,
    },
    /// All heads are in their band.
    AllInBand,
    /// The regulator of another valve, by number, loses its room.
    Robs(usize),
    /// Another valve, by number, starves.
    Starves(usize, Pressure),
}

impl OptionNote {
    /// True if it is about another zone.
    pub fn is_elsewhere(self) -> bool {
        matches!(self, Self::Robs(_) | Self::Starves(..))
    }
}

/// One way to regulate, computed.
#[derive(Debug, Clone)]
pub struct RegulationOption {
    /// Which.
    pub way: Way,
    /// What fits it; none for leaving things as they are.
    pub edit: Option<Edit>,
    /// The zone with it.
    pub zone: ZoneAssessment,
    /// Parts to buy.
    pub pieces: usize,
    /// What they cost, by the house's prices.
    pub cost: Decimal,
    /// What it does elsewhere or can't do here.
    pub notes: Vec<OptionNote>,
    /// False where it can't work: no room, wrong flow band, other zones starve.
    pub works: bool,
}

impl RegulationOption {
    pub(super) fn of(
        rules: &HouseRules,
        way: Way,
        edit: Option<Edit>,
        zone: ZoneAssessment,
        pieces: usize,
    ) -> Self {
        let (mut notes, mut works) = (Vec::new(), true);
        let high = zone.highest();
        if let Some(r) = &zone.regulator {
            let wanted = rules.regulator_room;
            if !r.room.reaches(wanted) {
                works = false;
                notes.push(OptionNote::NoRoom { inlet: r.inlet, set: r.set, wanted });
            } else if !matches!(way, Way::AsIs(_)) {
                notes.push(OptionNote::Room(r.room));
            }
            if let Some((least, most)) = r.flow_band
                && !zone.flow.is_within(least, most)
            {
                works = false;
                notes.push(OptionNote::OutsideBand { flow: zone.flow, least, most });
            }
        }
        if let Some(low) = zone.starved() {
            works = false;
            notes.push(OptionNote::LastHeadStarves { gets: low.nozzle, needs: low.band.least });
        }
        let over = high.nozzle / high.band.best - 1.0;
        if high.nozzle.exceeds(high.band.best * (1.0 + OVER_NOMINAL)) {
            works = false;
            let water = zone.flow / zone.nominal_flow - 1.0;
            notes.push(OptionNote::StillOver { pressure: over, water });
        }
        let price = match way {
            Way::AsIs(_) | Way::Fit(Regulation::None) => Decimal::ZERO,
            Way::Fit(Regulation::Valve { .. }) => rules.price_module,
            Way::Fit(Regulation::Inline { .. }) => rules.price_preset,
            Way::Fit(Regulation::Body { .. }) => rules.price_body,
            Way::System(_) => rules.price_system,
        };
        if notes.is_empty() {
            notes.push(OptionNote::AllInBand);
        }
        Self { way, edit, zone, pieces, cost: price * Decimal::from(pieces), notes, works }
    }

    /// The regulation of the zone with it, where it is a matter of the zone.
    pub fn regulation(&self) -> Option<Regulation> {
        match self.way {
            Way::AsIs(regulation) | Way::Fit(regulation) => Some(regulation),
            Way::System(_) => None,
        }
    }
}
