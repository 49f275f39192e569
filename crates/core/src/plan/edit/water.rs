//! Where the water comes from: points of connection, readings, the chain, the method gone by.

use super::listed::position;
use super::{Change, Edit, EditError, Listed, Put, Remove, Subject};
use crate::catalogue::Role;
use crate::plan::LegOf;
use crate::plan::validate::{Check, MOST_ENTRIES};
use crate::plan::{ChainPart, DesignFlowMethod, Plan, ReadingKind, Supply, WaterSource};
use serde::{Deserialize, Serialize};
use std::collections::HashSet;

impl Listed for Supply {
    const WHAT: &'static str = "point of connection";
    const KEY: &'static str = "supply";
    const REMOVE_WORDS: &'static str = "Point of connection removed";

    fn id(&self) -> &str {
        &self.id
    }
    fn list<'p>(plan: &'p mut Plan, _: Option<&str>) -> Result<&'p mut Vec<Self>, EditError> {
        Ok(&mut plan.supplies)
    }
    fn subject(_: Option<&str>, id: &str) -> Subject {
        Subject::Supply(id.to_owned())
    }
    fn put_words(&self) -> String {
        format!("Water supply {}", self.name)
    }
    fn put(put: Put<Self>) -> Edit {
        Edit::PutSupply(put)
    }
    fn remove(remove: Remove<Self>) -> Edit {
        Edit::RemoveSupply(remove)
    }
    fn may_go(plan: &Plan, id: &str) -> Result<(), EditError> {
        if plan.valves.iter().any(|v| v.supply == id) {
            return Err(EditError::StillUsed { id: id.to_owned() });
        }
        Ok(())
    }
    /// Its main goes with it.
    fn let_go(plan: &mut Plan, id: &str) -> Vec<Edit> {
        super::piping::take_up(plan, |leg| matches!(&leg.of, LegOf::Main(s) if s == id))
    }
}

/// Pins a method of design flow, or none.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct PinDesignFlow {
    /// The point of connection.
    pub supply: String,
    /// The method to go by; none: the smallest that is known.
    #[serde(rename = "school")]
    pub method: Option<DesignFlowMethod>,
}

impl Change for PinDesignFlow {
    fn apply(&self, plan: &mut Plan) -> Result<Edit, EditError> {
        let at = position(&plan.supplies, &self.supply)?;
        let was = std::mem::replace(&mut plan.supplies[at].pin, self.method);
        Ok(Edit::pin(self.supply.clone(), was))
    }
    fn subjects(&self) -> Vec<Subject> {
        vec![Subject::Supply(self.supply.clone())]
    }
    fn words(&self) -> String {
        "Design flow pinned".into()
    }
}

impl Check<'_> {
    pub(in crate::plan) fn supply(&mut self, at: &str, supply: &Supply, seen: &mut HashSet<String>) {
        self.text(&format!("{at}.name"), &supply.name, 100);
        self.rise(format!("{at}.gauge_height"), supply.gauge_height);
        if let Some(injection) = supply.injection {
            if !(injection.stock.litres() > 0.0 && injection.stock.litres() <= 10_000.0) {
                self.fault(
                    format!("{at}.injection.stock"),
                    "must be more than zero, at most 10 m3 (2,600 gal)",
                );
            }
            if !(injection.over.minutes() > 0.0 && injection.over.minutes() <= 1_440.0) {
                self.fault(format!("{at}.injection.over"), "must be more than zero, at most a day");
            }
        }
        if let Some(store) = supply.store {
            if !(store.volume.litres() > 0.0 && store.volume.litres() <= 1e6) {
                self.fault(
                    format!("{at}.store.volume"),
                    "must be more than zero, at most 1,000 m3 (264,000 gal)",
                );
            }
            if store.roof.is_some_and(|r| !(r.m2() >= 0.0 && r.m2() <= 100_000.0)) {
                self.fault(format!("{at}.store.roof"), "must be from 0 to 100,000 m2 (1,000,000 ft2)");
            }
            if store.battery_watts.is_some_and(|w| !(0.0..=20_000.0).contains(&w)) {
                self.fault(format!("{at}.store.battery_watts"), "must be from 0 to 20,000 W");
            }
        }
        match &supply.water {
            WaterSource::Street | WaterSource::Tap => {}
            WaterSource::Tank { height } => self.length(format!("{at}.water.height"), *height, 300.0, false),
            WaterSource::Pump { curve, least, .. } => {
                if let Some(least) = least {
                    self.flow(format!("{at}.water.least"), *least);
                }
                if !(3..=50).contains(&curve.len()) {
                    self.fault(format!("{at}.water.curve"), "a pump curve needs 3 to 50 points");
                }
                for (i, pair) in curve.windows(2).enumerate() {
                    if pair[1].flow <= pair[0].flow {
                        self.fault(
                            format!("{at}.water.curve[{}].flow", i + 1),
                            "flow must increase from point to point",
                        );
                    }
                    if pair[1].pressure >= pair[0].pressure {
                        self.fault(
                            format!("{at}.water.curve[{}].pressure", i + 1),
                            "pump pressure must fall as flow rises",
                        );
                    }
                }
                for (i, p) in curve.iter().enumerate() {
                    if p.flow.lpm() < 0.0 {
                        self.fault(format!("{at}.water.curve[{i}].flow"), "must be zero or more");
                    }
                    if p.pressure.kpa() < 0.0 || p.pressure.psi() > 300.0 {
                        self.fault(
                            format!("{at}.water.curve[{i}].pressure"),
                            "must be from 0 to 300 psi (20.7 bar)",
                        );
                    }
                }
            }
            WaterSource::Well { cut_in, cut_out, pump_flow, least } => {
                if let Some(least) = least {
                    self.flow(format!("{at}.water.least"), *least);
                }
                self.pressure(format!("{at}.water.cut_in"), *cut_in);
                self.pressure(format!("{at}.water.cut_out"), *cut_out);
                self.flow(format!("{at}.water.pump_flow"), *pump_flow);
                if cut_out <= cut_in {
                    self.fault(format!("{at}.water.cut_out"), "must be above the cut-in pressure");
                }
            }
        }
        if supply.readings.len() > MOST_ENTRIES {
            self.fault(format!("{at}.readings"), format!("at most {MOST_ENTRIES} readings"));
        }
        for (i, reading) in supply.readings.iter().enumerate() {
            let here = format!("{at}.readings[{i}]");
            match &reading.kind {
                ReadingKind::Static { pressure } => {
                    self.pressure(format!("{here}.measured.pressure"), *pressure)
                }
                ReadingKind::Dynamic { flow, pressure } => {
                    self.flow(format!("{here}.measured.flow"), *flow);
                    self.pressure(format!("{here}.measured.pressure"), *pressure);
                }
                ReadingKind::Bucket { volume, time } => {
                    if !(volume.litres() > 0.0 && volume.litres() < 10_000.0) {
                        self.fault(
                            format!("{here}.measured.volume"),
                            "must be more than zero and under 10,000 L",
                        );
                    }
                    if !(time.minutes() > 0.0 && time.minutes() < 600.0) {
                        self.fault(format!("{here}.measured.time"), "must be more than zero and under 10 h");
                    }
                }
            }
            for (name, text) in
                [("when", &reading.when), ("instrument", &reading.instrument), ("place", &reading.tap)]
            {
                self.text(&format!("{here}.{name}"), text, 100);
            }
        }
        if supply.chain.len() > 50 {
            self.fault(format!("{at}.chain"), "at most 50 parts");
        }
        for (i, item) in supply.chain.iter().enumerate() {
            let here = format!("{at}.chain[{i}]");
            self.id(format!("{here}.id"), &item.id, seen);
            match &item.part {
                ChainPart::Pipe { pipe, length, rise } => {
                    self.pipe(format!("{here}.part.pipe"), pipe);
                    self.length(format!("{here}.part.length"), *length, 10_000.0, false);
                    self.rise(format!("{here}.part.rise"), *rise);
                }
                ChainPart::Meter { size } if self.catalogue.meter(size).is_none() => {
                    let sizes: Vec<&str> = self.catalogue.meters.iter().map(|m| m.size.as_str()).collect();
                    self.fault(
                        format!("{here}.part.size"),
                        format!("‘{size}’ is not a meter size: {}", sizes.join(", ")),
                    );
                }
                ChainPart::Device { model } => match self.catalogue.device(model).map(|d| d.role) {
                    Some(Role::Backflow | Role::Isolation | Role::Filter) => {}
                    _ => self.unknown_device(
                        format!("{here}.part.model"),
                        model,
                        &[Role::Backflow, Role::Isolation, Role::Filter],
                    ),
                },
                ChainPart::Regulator { set } => self.pressure(format!("{here}.part.set"), *set),
                ChainPart::Meter { .. } => {}
            }
        }
        if let Some(after) = &supply.read_after
            && !supply.chain.iter().any(|c| c.id == *after)
        {
            self.fault(format!("{at}.read_after"), format!("‘{after}’ is not a supply component"));
        }
    }
}
