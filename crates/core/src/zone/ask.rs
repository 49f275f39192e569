//! A single question about one valve. An assessment makes the supply's curve once for all its valves
//! instead.

use super::figures::{ZoneAssessment, ZoneFault, assess_zone};
use super::inputs::ZoneInputs;
use crate::job::Job;
use crate::plan::Valve;
use crate::water::{CurveFault, SupplyPoint};
use std::sync::Arc;

/// The inputs of a valve as the job stands.
///
/// # Errors
/// [`ZoneFault`] where the water is not known.
pub fn inputs_of(job: &Job, valve: &Valve) -> Result<ZoneInputs, ZoneFault> {
    let supply = job.supply(&valve.supply).ok_or(CurveFault::NoStatic)?;
    let point = SupplyPoint::of(job, supply)?;
    Ok(ZoneInputs::of(job, valve, Arc::new(point)))
}

/// Solves the zone of a valve as the job stands.
///
/// # Errors
/// [`ZoneFault`].
pub fn zone_of(job: &Job, valve: &Valve) -> Result<ZoneAssessment, ZoneFault> {
    assess_zone(&inputs_of(job, valve)?)
}
