//! Small simulated stand-ins for what stands outside the program, so that it can be tried without any of it.
//!
//! | module | stands in for |
//! |---|---|
//! | [`weather`] | a weather station: days of temperature, humidity, wind, sun and rain |
//! | [`controller`] | a controller with a flow and pressure sensor, in fast time, over HTTP |
//!
//! What they say is made up, but by the same physics: the controller opens valves on the solved network, the
//! station's evaporation is that of FAO-56. Both are seeded or computed: the same question, the same answer.
#![forbid(unsafe_code)]
#![deny(missing_docs)]

pub mod controller;
pub mod weather;
