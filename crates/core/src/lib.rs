//! Landscape irrigation, computed: from the water at a connection to the pressure at every head.
//!
//! A *job* is a plan with the tables that it is computed by; an *assessment* is what follows from it.
//! Nothing here reads a file, a clock or the network, and nothing here is worded or drawn: figures go
//! in, figures come out.
//!
//! # Example
//!
//! A small zone, from the gauge to the last head. Street water at 60 psi, 52 left with 12 gpm
//! running; nine sprays that throw 12 ft, half circles, on one valve.
//!
//! ```
//! use fenlo_core::assess::assess;
//! use fenlo_core::job::Job;
//! use fenlo_core::plan::{Edit, Plan, Reading, ReadingKind};
//! use fenlo_core::units::{Flow, Pressure, UnitSystem};
//! use fenlo_core::usual;
//!
//! let mut plan = Plan::new("Corner plot", UnitSystem::Us);
//! let psi = Pressure::from_psi;
//! for kind in [
//!     ReadingKind::Static { pressure: psi(60.0) },
//!     ReadingKind::Dynamic { flow: Flow::from_gpm(12.0), pressure: psi(52.0) },
//! ] {
//!     let (when, instrument, tap) = Default::default();
//!     plan.supplies[0].readings.push(Reading { kind, when, instrument, tap });
//! }
//! let mut job = Job::new(plan);
//!
//! // Heads and a valve with what is usual for them; every change is an edit with its inverse.
//! let valve = usual::valve(&job, None).expect("a plan begins with a connection");
//! let mut heads = usual::group(&job, "Front lawn", "spray-12", 180, 9);
//! heads.listed[0].valve = Some(valve.id.clone());
//! let edit = Edit::batch(vec![Edit::put(valve), Edit::put(heads)]);
//! let (next, inverse) = job.apply(&edit)?;
//! assert_eq!(next.apply(&inverse)?.0, job);
//! job = next;
//!
//! let known = assess(&job);
//! let zone = known.zones[0].zone.as_ref().expect("the water is known");
//! // By hand: 9 heads of 1.2 gpm at 30 psi, and q grows with the root of the pressure.
//! assert!((9.0..16.0).contains(&zone.flow.gpm()));
//! assert!(zone.lowest().nozzle.psi() > 30.0, "the last head has more than it needs");
//! # Ok::<(), fenlo_core::plan::EditError>(())
//! ```
//!
//! # Vocabulary
//!
//! | word | meaning |
//! |---|---|
//! | *static pressure* | at the gauge with nothing running |
//! | *supply curve* | pressure at the gauge by flow |
//! | *design flow* | what one valve may take |
//! | *head* | one sprinkler, or one row of dripline |
//! | *group* | heads of one nozzle on one area |
//! | *valve*, *zone* | a solenoid valve; all that runs when it opens |
//! | *band* | pressures that a class of head is made for: least, best, most |
//! | *finding*, *remedy* | what is wrong; an edit that mends it, with what it then comes to |
//!
//! # Contents, in the order of the work
//!
//! A module uses only those above it, and no file leads back to itself; a test holds both.
//!
//! | module | what it has |
//! |---|---|
//! | [`units`] | typed quantities, read and shown in US and metric |
//! | [`terms`] | names of things by language |
//! | [`fault`] | what is wrong with what was given, and where |
//! | [`progress`] | how far long work is, and whether it is to stop |
//! | [`network`] | pipes, devices and emitters as a graph, solved |
//! | [`catalogue`] | nozzles, pipes, meters, devices, regulators |
//! | [`site`] | the ground: outlines with true arcs, what stands on it, heights |
//! | [`climate`] | evaporation and rain, and how the weather makes them |
//! | [`plan`] | what somebody has decided, and every change of it as an edit |
//! | [`job`] | a plan with its tables |
//! | [`usual`] | what a new group, row or valve starts with |
//! | [`chain`] | the parts between the gauge and the valves |
//! | [`water`] | from readings to a supply curve to a design flow |
//! | [`zone`] | one valve: its network, its figures, its walk of pressure |
//! | [`coverage`] | the water on the ground |
//! | [`earthwork`] | what may be dug, what is dug, what boxes take |
//! | [`findings`] | what is wrong, with the figures it rests on |
//! | [`board`] | what hands do on the ground, as edits |
//! | [`layout`] | heads proposed for an area |
//! | [`regulation`] | ways to regulate a zone, each solved |
//! | [`piping`] | routes, sizes, boxes, trenches, wire |
//! | [`zoning`] | what may share a valve, and the split |
//! | [`assess`](mod@assess) | all of it for a job |
//! | [`remedies`] | what would mend a finding, tried on the whole job |
//! | [`runtime`] | how long, how often, when: minutes, cycles, the night |
//! | [`verdict`] | all findings of a job, and what is not planned yet |
//! | [`planning`] | a whole plan for drawn ground, kinds compared by its price |
//! | [`steps`] | how far the steps of a job are |
//! | [`quick`] | the daily question: how many heads fit |
//!
//! # Not covered
//!
//! Water hammer, and anything else that is not steady flow; the pressure of the town's main at another
//! hour than it was read; local codes: figures are held against house rules, and those who know the
//! code decide. Fenlo supports licensed practice and does not replace it.
//!
//! # How a calculation is documented
//!
//! Its formula, the unit and valid range of what goes in and comes out, its errors, the source of the
//! method (author, year, standard), and an example with figures by hand. See
//! [`network::hazen_williams`].
#![forbid(unsafe_code)]
#![deny(missing_docs)]

pub mod assembly;
pub mod assess;
pub mod board;
pub mod catalogue;
pub mod chain;
pub mod climate;
pub mod coverage;
pub mod drip;
pub mod earthwork;
/// Why Fenlo is built as it is.
#[cfg(doc)]
#[doc = include_str!("../../../docs/DESIGN.md")]
pub mod design {}
pub mod fault;
pub mod findings;
pub mod job;
pub mod layout;
pub mod network;
pub mod piping;
pub mod plan;
pub mod planning;
pub mod pricing;
pub mod progress;
pub mod quick;
pub mod regulation;
pub mod remedies;
pub mod runtime;
pub mod site;
pub mod steps;
pub mod takeoff;
pub mod terms;
pub mod units;
pub mod usual;
pub mod verdict;
pub mod water;
pub mod zone;
pub mod zoning;
