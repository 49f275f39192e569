//! Built-in tables: heads, nozzles, pipes, meters, devices, regulators.
//!
//! All figures are typical of the class of equipment, never one make. The tables are the CSV files
//! in `data/`; a row says its units in the header.

mod device;
mod nozzle;
mod own;
mod pipe;
mod read;
mod regulator;
#[cfg(test)]
mod tests;

pub use device::{Device, Meter, Role};
pub use nozzle::{ArcRule, Kind, KindRow, Lies, Nozzle, Strip, TURNS_DOWN};
pub use own::{ChartRow, Fit, OwnNozzle};
pub use pipe::{Pipe, PipeId};
pub use regulator::{Place, RegulatorModel};

use std::sync::OnceLock;

/// The tables.
#[derive(Debug, Clone, PartialEq)]
pub struct Catalogue {
    /// One row for each kind of head.
    pub kinds: Vec<KindRow>,
    /// Nozzles, drip emitters.
    pub nozzles: Vec<Nozzle>,
    /// Pipes by material and size, sizes rising within a material.
    pub pipes: Vec<Pipe>,
    /// Displacement meters.
    pub meters: Vec<Meter>,
    /// Backflow, isolation, valves, filters.
    pub devices: Vec<Device>,
    /// Regulators.
    pub regulators: Vec<RegulatorModel>,
}

impl Catalogue {
    /// The built-in rows.
    pub fn builtin() -> &'static Self {
        static BUILTIN: OnceLock<Catalogue> = OnceLock::new();
        BUILTIN.get_or_init(|| Self {
            kinds: nozzle::kinds(),
            nozzles: nozzle::nozzles(),
            pipes: pipe::pipes(),
            meters: device::meters(),
            devices: device::devices(),
            regulators: regulator::regulators(),
        })
    }

    /// These tables with nozzles of the house, and with what is on the truck marked.
    #[must_use]
    pub fn with(&self, own: &[OwnNozzle], favourites: &[String]) -> Self {
        let mut all = self.clone();
        all.nozzles.extend(own.iter().filter_map(|n| n.nozzle(self)));
        all.nozzles
            .iter_mut()
            .for_each(|n| n.favourite = favourites.contains(&n.id));
        all
    }

    /// The nozzle of this id.
    pub fn nozzle(&self, id: &str) -> Option<&Nozzle> {
        self.nozzles.iter().find(|n| n.id == id)
    }

    /// What is common to a kind.
    ///
    /// # Panics
    /// Never on the built-in tables: a test checks that every kind has its row.
    pub fn kind(&self, kind: Kind) -> &KindRow {
        self.kinds
            .iter()
            .find(|k| k.kind == kind)
            .expect("every kind has a row")
    }

    /// The pipe of this material and size.
    pub fn pipe(&self, id: &PipeId) -> Option<&Pipe> {
        self.pipes
            .iter()
            .find(|p| p.material == id.material && p.size == id.size)
    }

    /// The next larger size of the same material.
    pub fn next_pipe(&self, id: &PipeId) -> Option<&Pipe> {
        let now = self.pipe(id)?;
        self.pipes
            .iter()
            .find(|p| p.material == id.material && p.inside > now.inside)
    }

    /// The meter of this size.
    pub fn meter(&self, size: &str) -> Option<&Meter> {
        self.meters.iter().find(|m| m.size == size)
    }

    /// The device of this id.
    pub fn device(&self, id: &str) -> Option<&Device> {
        self.devices.iter().find(|d| d.id == id)
    }

    /// Devices of one role.
    pub fn devices_for(&self, role: Role) -> impl Iterator<Item = &Device> {
        self.devices.iter().filter(move |d| d.role == role)
    }

    /// The regulator of this id.
    pub fn regulator(&self, id: &str) -> Option<&RegulatorModel> {
        self.regulators.iter().find(|r| r.id == id)
    }
}
