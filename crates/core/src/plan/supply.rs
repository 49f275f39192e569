use crate::catalogue::PipeId;
use crate::units::{Flow, Length, Minutes, Pressure, Surface, Volume};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A point of connection: where the water comes from and what it passes on the way to the valves.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Supply {
    /// Stable name in the file.
    pub id: String,
    /// For people.
    pub name: String,
    /// Street main, well or pump.
    #[serde(default)]
    pub water: WaterSource,
    /// Height of the gauge above the point of connection; negative below it.
    #[serde(default)]
    pub gauge_height: Length,
    /// Part of the chain behind which the readings were taken; none: before the first part.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub read_after: Option<String>,
    /// Somebody said where the readings were taken; until then the place before the first part is a guess.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub gauge_said: bool,
    /// What was measured.
    #[serde(default)]
    pub readings: Vec<Reading>,
    /// Parts in the order of the flow, from the street to the valves.
    #[serde(default)]
    pub chain: Vec<ChainItem>,
    /// The method of design flow to go by; none: the smallest.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pin: Option<DesignFlowMethod>,
    /// Fertilizer that is put into its water.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub injection: Option<Injection>,
    /// What it takes its water from, where that is not endless.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub store: Option<Store>,
}

/// Stock solution put into the water of one watering.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Injection {
    /// Stock solution for one watering of one zone.
    pub stock: Volume,
    /// Over so many minutes.
    pub over: Minutes,
}

/// A tank or barrels.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Store {
    /// What it holds.
    pub volume: Volume,
    /// Roof that feeds it, seen from above.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub roof: Option<Surface>,
    /// What its pump draws, watts; where it runs on a battery.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub battery_watts: Option<f64>,
}

impl Supply {
    /// A street connection of which nothing is known yet.
    pub fn new(id: &str, name: &str) -> Self {
        Self {
            id: id.to_owned(),
            name: name.to_owned(),
            water: WaterSource::Street,
            gauge_height: Length::ZERO,
            read_after: None,
            gauge_said: false,
            readings: Vec::new(),
            chain: Vec::new(),
            pin: None,
            injection: None,
            store: None,
        }
    }

    /// Where the gauge stood has to be asked: it was read with water running, there are parts whose loss the
    /// readings may hold already, and nobody said.
    pub fn asks_for_gauge(&self) -> bool {
        let running = self.readings.iter().any(|r| matches!(r.kind, ReadingKind::Dynamic { .. }));
        let said = self.gauge_said || self.read_after.is_some();
        self.water.is_mains() && running && !self.chain.is_empty() && !said
    }

    /// Moves a part of the chain one place up, towards the street, or down. At the end of the chain
    /// it stays. The gauge stays at its part. False where there is no such part.
    pub fn move_part(&mut self, id: &str, towards_street: bool) -> bool {
        let Some(at) = self.chain.iter().position(|c| c.id == id) else {
            return false;
        };
        let to = if towards_street { at.checked_sub(1) } else { Some(at + 1) };
        if let Some(to) = to.filter(|to| *to < self.chain.len()) {
            self.chain.swap(at, to);
        }
        true
    }

    /// Takes a part out of the chain; a gauge behind it then stands behind the part before it. False
    /// where there is no such part.
    pub fn remove_part(&mut self, id: &str) -> bool {
        let Some(at) = self.chain.iter().position(|c| c.id == id) else {
            return false;
        };
        self.chain.remove(at);
        if self.read_after.as_deref() == Some(id) {
            self.read_after = at.checked_sub(1).map(|i| self.chain[i].id.clone());
        }
        true
    }
}

/// Where the water comes from.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "from", rename_all = "kebab-case", deny_unknown_fields)]
pub enum WaterSource {
    /// A street main: its pressure is what the readings say.
    #[default]
    Street,
    /// A hose bib of the house: read like a main, and a bucket filled from it wide open says what it gives at no
    /// pressure at all.
    Tap,
    /// A pump by its curve: three points or more.
    Pump {
        /// Three points or more, by rising flow.
        curve: Vec<PumpPoint>,
        /// Drinking water: wants backflow protection.
        #[serde(default)]
        potable: bool,
        /// Least that it may give for long without starting and stopping.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        least: Option<Flow>,
    },
    /// A well pump with a pressure tank that cycles between two pressures.
    Well {
        /// The pump starts.
        cut_in: Pressure,
        /// The pump stops.
        cut_out: Pressure,
        /// What the pump gives.
        pump_flow: Flow,
        /// Least that may run without the pump starting and stopping all the time.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        least: Option<Flow>,
    },
    /// A tank or barrels without a pump: the height of the water alone. It is not tied to drinking water.
    Tank {
        /// The lowest water that is still to be used over the outlet.
        height: Length,
    },
}

impl WaterSource {
    /// It is tied to drinking water, and wants backflow protection.
    pub fn is_potable(&self) -> bool {
        match self {
            Self::Street | Self::Tap | Self::Well { .. } => true,
            Self::Pump { potable, .. } => *potable,
            Self::Tank { .. } => false,
        }
    }

    /// It comes from a town's main, straight or through the house: clean, and its pressure is what a gauge says.
    pub fn is_mains(&self) -> bool {
        matches!(self, Self::Street | Self::Tap)
    }
}

/// A point of a pump's curve.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PumpPoint {
    /// Flow.
    pub flow: Flow,
    /// Pressure at the outlet.
    pub pressure: Pressure,
}

/// One reading.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Reading {
    /// What was read.
    #[serde(rename = "measured")]
    pub kind: ReadingKind,
    /// Date and hour as noted, e.g. `2026-05-03 07:10`.
    #[serde(default)]
    pub when: String,
    /// Gauge, meter, bucket.
    #[serde(default)]
    pub instrument: String,
    /// Where: which bib, which tap.
    #[serde(rename = "place", default)]
    pub tap: String,
}

/// What was read.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "is", rename_all = "lowercase", deny_unknown_fields)]
pub enum ReadingKind {
    /// Pressure with nothing running.
    Static {
        /// Read at the gauge.
        pressure: Pressure,
    },
    /// Pressure with a known flow running.
    Dynamic {
        /// Running meanwhile.
        flow: Flow,
        /// Read at the gauge.
        pressure: Pressure,
    },
    /// Time to fill a bucket.
    Bucket {
        /// Filled.
        volume: Volume,
        /// In this time.
        time: Minutes,
    },
}

/// A part of the chain with its own name, so that readings can say where they were taken.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ChainItem {
    /// Stable name in the file.
    pub id: String,
    /// What it is.
    pub part: ChainPart,
}

/// What stands between the street and the valves.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "is", rename_all = "kebab-case", deny_unknown_fields)]
pub enum ChainPart {
    /// The service line, or a stretch of main that all valves share.
    Pipe {
        /// By its name in the catalogue.
        pipe: PipeId,
        /// Along the pipe.
        length: Length,
        /// Of its end over its beginning.
        #[serde(default)]
        rise: Length,
    },
    /// A displacement meter by its size.
    Meter {
        /// By its name in the catalogue.
        size: String,
    },
    /// A backflow device, isolation valve or filter of the catalogue.
    Device {
        /// By its name in the catalogue.
        model: String,
    },
    /// A reducing valve for the whole system.
    Regulator {
        /// Pressure held behind it.
        set: Pressure,
    },
}

/// How the design flow is found.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum DesignFlowMethod {
    /// Three rules for meter and service line; the least counts.
    MeterAndService,
    /// The flow at which what the neediest zone wants still arrives.
    WorkingPressure,
    /// What the bucket took, as a lower bound.
    TimedBucket,
    /// What a pump or well gives.
    Pump,
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Meter, backflow, isolation valve; the gauge behind the backflow.
    fn supply() -> Supply {
        let item = |id: &str| ChainItem { id: id.into(), part: ChainPart::Meter { size: "3/4in".into() } };
        Supply {
            chain: ["c1", "c2", "c3"].map(item).into(),
            read_after: Some("c2".into()),
            ..Supply::new("s1", "Meter")
        }
    }
    fn order(s: &Supply) -> String {
        s.chain.iter().map(|c| c.id.as_str()).collect::<Vec<_>>().join(" ")
    }

    #[test]
    fn a_moved_part_takes_the_gauge_behind_it_along() {
        let mut s = supply();
        assert!(s.move_part("c2", true));
        assert_eq!((order(&s).as_str(), s.read_after.as_deref()), ("c2 c1 c3", Some("c2")));
        // Another part that passes the gauge leaves it where it is.
        assert!(s.move_part("c3", true) && s.move_part("c3", true));
        assert_eq!((order(&s).as_str(), s.read_after.as_deref()), ("c3 c2 c1", Some("c2")));
    }

    #[test]
    fn at_an_end_of_the_chain_a_part_stays() {
        let mut s = supply();
        assert!(s.move_part("c1", true) && s.move_part("c3", false));
        assert_eq!(order(&s), "c1 c2 c3");
        assert!(!s.move_part("c9", true) && !s.remove_part("c9"));
    }

    #[test]
    fn a_gauge_behind_a_part_that_goes_stands_behind_the_one_before_or_at_the_street() {
        let mut s = supply();
        assert!(s.remove_part("c3"));
        assert_eq!(s.read_after.as_deref(), Some("c2"), "it stood before that part");
        assert!(s.remove_part("c2"));
        assert_eq!(s.read_after.as_deref(), Some("c1"));
        assert!(s.remove_part("c1"));
        assert_eq!(s.read_after, None);
    }
}
