//! Built-in tables: heads, nozzles, pipes, meters, devices, regulators.
//!
//! All figures are typical for this type of equipment, never one make. The tables are the CSV files
//! in `data/`; a row says its units in the header.

mod device;
mod fitting;
mod nozzle;
mod own;
mod part;
mod pipe;
mod read;
mod regulator;
#[cfg(test)]
mod tests;

pub use device::{BackflowPlace, Device, Duty, METER_LOSS_AT_MAX_PSI, Meter, Role};
pub use fitting::{FittingForm, FittingRow, FittingSystem, Threads, thread_of};
pub(crate) use nozzle::THROW_EXPONENT;
pub use nozzle::{ArcRule, HeadClass, Kind, Lies, Nozzle, PressureBand, Strip};
pub use own::{ChartRow, Fit, OwnNozzle};
pub use part::{Part, PartEnd, PartEndError, PartRole, Seal};
pub use pipe::{Pipe, PipeDuty, PipeId, PipeIdError, Sold};
pub use regulator::{Mounting, RegulatorModel};

use crate::units::{Flow, Pressure};
use std::sync::{Arc, LazyLock};

static BUILTIN: LazyLock<Arc<Catalogue>> = LazyLock::new(|| {
    Arc::new(Catalogue {
        classes: nozzle::classes(),
        nozzles: nozzle::nozzles(),
        pipes: pipe::pipes(),
        meters: device::meters(),
        devices: device::devices(),
        regulators: regulator::regulators(),
        parts: part::parts(),
        fittings: fitting::fittings(),
    })
});

/// The tables.
#[derive(Debug, Clone, PartialEq)]
pub struct Catalogue {
    /// One row for each kind of head.
    pub classes: Vec<HeadClass>,
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
    /// Parts of assemblies.
    pub parts: Vec<Part>,
    /// What pipes are joined with.
    pub fittings: Vec<FittingRow>,
}

/// Share of their nominal flow that heads take at the bottom of their band, about.
const TAKEN_AT_LEAST: f64 = 0.85;

impl Catalogue {
    /// The built-in rows.
    pub fn builtin() -> &'static Self {
        &BUILTIN
    }

    /// The same to be kept.
    pub fn shared() -> Arc<Self> {
        BUILTIN.clone()
    }

    /// These tables with nozzles of the house, and with what is on the truck marked.
    #[must_use]
    pub fn with(&self, own: &[OwnNozzle], favourites: &[String]) -> Self {
        let mut all = self.clone();
        all.nozzles.extend(own.iter().filter_map(|n| n.nozzle(self)));
        all.nozzles.iter_mut().for_each(|n| n.favourite = favourites.contains(&n.id));
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
    pub fn class(&self, kind: Kind) -> &HeadClass {
        self.classes.iter().find(|k| k.kind == kind).expect("every kind has a row")
    }

    /// The pipe of this material and size.
    pub fn pipe(&self, id: &PipeId) -> Option<&Pipe> {
        self.pipes.iter().find(|p| p.material == id.material && p.size == id.size)
    }

    /// The next larger size of the same material.
    pub fn next_pipe(&self, id: &PipeId) -> Option<&Pipe> {
        let now = self.pipe(id)?;
        self.pipes.iter().find(|p| p.material == id.material && p.inside > now.inside)
    }

    /// The pipe of the same material so many sizes larger, below zero smaller.
    pub fn pipe_beside(&self, id: &PipeId, steps: i32) -> Option<&Pipe> {
        let mut sizes: Vec<&Pipe> = self.pipes.iter().filter(|p| p.material == id.material).collect();
        sizes.sort_by(|a, b| a.inside.m().total_cmp(&b.inside.m()));
        let now = sizes.iter().position(|p| p.id() == *id)?;
        sizes.get(now.checked_add_signed(isize::try_from(steps).ok()?)?).copied()
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

    /// The solenoid valve that is taken for a duty where nobody chose one.
    ///
    /// # Panics
    /// Never on the built-in tables: a test checks that every duty has its row.
    pub fn valve_of(&self, duty: Duty) -> &Device {
        self.devices_for(Role::Valve).find(|d| d.duty == Some(duty)).expect("every duty has a valve")
    }

    /// The smallest valve whose loss at a flow stays under 5 psi, low-flow for drip, smaller for flows under
    /// which it would not close; the largest where none does.
    ///
    /// # Panics
    /// Never on the built-in tables.
    pub fn valve_for(&self, flow: Flow, drip: bool) -> &Device {
        let low_flow = self.valve_of(Duty::LowFlow);
        if drip && low_flow.proposed_to.is_none_or(|most| flow < most) {
            return low_flow;
        }
        let usual = || {
            self.devices_for(Role::Valve)
                .filter(|d| !matches!(d.duty, Some(Duty::LowFlow | Duty::Small)) && d.place.is_none())
        };
        // Heads below their best pressure take less than they are made for.
        let closes = |d: &&Device| d.min_flow.is_none_or(|least| (flow * TAKEN_AT_LEAST).reaches(least));
        let chosen = usual()
            .find(|d| d.loss.at(flow) < Pressure::from_psi(5.0))
            .or_else(|| usual().last())
            .expect("there are valves");
        // Under its least flow a valve may not close: a smaller one does, and the one for little flow.
        let smaller = [chosen, self.valve_of(Duty::Small), low_flow];
        smaller.into_iter().find(closes).unwrap_or(chosen)
    }

    /// The smallest filter that is proposed for a flow.
    ///
    /// # Panics
    /// Never on the built-in tables.
    pub fn filter_for(&self, flow: Flow) -> &Device {
        self.devices_for(Role::Filter)
            .find(|d| d.proposed_to.is_none_or(|most| flow <= most))
            .expect("the largest filter is proposed for any flow")
    }

    /// The pipe that is taken for a duty where nobody chose one.
    ///
    /// # Panics
    /// Never on the built-in tables: a test checks that every duty has its row.
    pub fn pipe_of(&self, duty: PipeDuty) -> &Pipe {
        self.pipes.iter().find(|p| p.duty == Some(duty)).expect("every duty has a pipe")
    }

    /// Regulators that sit at a place of the water's path.
    pub fn regulators_at(&self, mounting: Mounting) -> impl Iterator<Item = &RegulatorModel> {
        self.regulators.iter().filter(move |r| r.mounting == mounting)
    }

    /// The part of this id.
    pub fn part(&self, id: &str) -> Option<&Part> {
        self.parts.iter().find(|p| p.id == id)
    }

    /// The fitting of a form that is made in a size, with this thread where it has one.
    pub fn fitting(
        &self,
        system: FittingSystem,
        form: FittingForm,
        size: &str,
        thread: Option<&str>,
    ) -> Option<&FittingRow> {
        self.fittings.iter().find(|f| {
            let threaded = match (&f.threads, thread) {
                (Threads::None, None) => true,
                (Threads::Own, Some(t)) => t == thread_of(size),
                (Threads::OneOf(all), Some(t)) => all.iter().any(|a| a == t),
                _ => false,
            };
            f.system == system && f.form == form && threaded && f.sizes.iter().any(|s| s == size)
        })
    }

    /// The regulator of this id.
    pub fn regulator(&self, id: &str) -> Option<&RegulatorModel> {
        self.regulators.iter().find(|r| r.id == id)
    }
}
