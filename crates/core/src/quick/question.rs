use crate::catalogue::{Catalogue, Kind, PipeId};
use crate::plan::{
    ArcCount, Arrangement, ChainItem, ChainPart, DripRow, HeadGroup, Plan, Reading, ReadingKind, Regulation,
    Valve,
};
use crate::units::{Flow, Length, Pressure, UnitSystem};

/// What is asked.
#[derive(Debug, Clone, PartialEq)]
pub struct Question {
    /// Units of the answer.
    pub units: UnitSystem,
    /// With nothing running.
    pub static_pressure: Pressure,
    /// Pressures read with a flow running.
    pub dynamic: Vec<(Flow, Pressure)>,
    /// Service line.
    pub service: Option<(PipeId, Length)>,
    /// Meter by its size.
    pub meter: Option<String>,
    /// Backflow device of the catalogue.
    pub backflow: Option<String>,
    /// Solenoid valve of the catalogue.
    pub valve: String,
    /// Nozzle of the catalogue.
    pub nozzle: String,
    /// Degrees.
    pub arc: u16,
    /// Heads, or rows of dripline.
    pub count: u32,
    /// Between them.
    pub spacing: Length,
    /// Lateral.
    pub pipe: PipeId,
    /// How it reaches the heads.
    pub arrangement: Arrangement,
    /// From the valve to the first head.
    pub distance: Length,
    /// To the highest head.
    pub rise: Length,
    /// Where it is regulated.
    pub regulation: Regulation,
}

impl Question {
    /// The small plan that asks it: one supply, one group, one valve. It may hold figures that
    /// can't be used: ask for its faults.
    pub fn plan(&self) -> Plan {
        let mut plan = Plan::new("Quick check", self.units);
        let supply = &mut plan.supplies[0];
        let reading =
            |kind| Reading { kind, when: String::new(), instrument: String::new(), tap: String::new() };
        supply.readings.push(reading(ReadingKind::Static { pressure: self.static_pressure }));
        let running = self.dynamic.iter();
        supply
            .readings
            .extend(running.map(|&(flow, pressure)| reading(ReadingKind::Dynamic { flow, pressure })));
        let service =
            self.service.clone().map(|(pipe, length)| ChainPart::Pipe { pipe, length, rise: Length::ZERO });
        let meter = self.meter.clone().map(|size| ChainPart::Meter { size });
        let backflow = self.backflow.clone().map(|model| ChainPart::Device { model });
        let parts = [service, meter, backflow].into_iter().flatten();
        supply.chain = (1..).zip(parts).map(|(i, part)| ChainItem { id: format!("c{i}"), part }).collect();
        let rows = Catalogue::builtin()
            .nozzle(&self.nozzle)
            .is_some_and(|n| matches!(n.kind, Kind::Dripline | Kind::Tape));
        let usual_row = DripRow { emitters: 20, emitter_spacing: Length::from_in(12.0) };
        plan.groups.push(HeadGroup {
            listed: vec![ArcCount { arc: self.arc, count: self.count, valve: Some("v1".into()) }],
            arrangement: self.arrangement,
            spacing: self.spacing,
            pipe: self.pipe.clone(),
            distance: self.distance,
            rise: self.rise,
            row: rows.then_some(usual_row),
            ..HeadGroup::new("g1", "Heads", &self.nozzle)
        });
        plan.valves.push(Valve {
            model: self.valve.clone(),
            regulation: self.regulation,
            ..Valve::new("v1", "Heads", "s1")
        });
        plan
    }
}
