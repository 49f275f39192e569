//! Open formats in and out: job files (`fenlo-job/1`), networks (`fenlo-network/1`), charts of nozzles
//! (CSV), drawings (DXF, GeoJSON), pictures (PNG, JPEG, PDF).
//!
//! Readers take bytes of any origin: size and nesting are bounded, unknown keys are refused, and
//! every fault says where in the file it is. Writers give what the readers take, to the same bits.
//!
//! ```
//! use fenlo_core::plan::Plan;
//! use fenlo_core::units::UnitSystem;
//! use fenlo_formats::{read_job, write_job};
//!
//! let plan = Plan::new("Corner plot", UnitSystem::Us);
//! let file = write_job(&plan);
//! assert_eq!(read_job(file.as_bytes())?.into_plan(), plan);
//!
//! let fault = read_job(br#"{"format": "fenlo-job/1", "name": "x", "colour": "green"}"#).unwrap_err();
//! assert!(fault.to_string().contains("colour"), "{fault}");
//! # Ok::<(), fenlo_formats::ReadError>(())
//! ```
//!
//! | module | what it reads and writes |
//! |---|---|
//! | `job` | whole jobs, with their JSON Schema |
//! | `network` | networks and their solutions |
//! | `chart` | charts of nozzles, row by row; what can't be used is told with its line |
//! | `climate` | evaporation and rain by month, from figures or temperatures |
//! | [`controller`] | programmes and logs, as a controller takes and gives them |
//! | `sheet`, `calendar` | the controller sheet as CSV, the season as iCalendar |
//! | `prices` | price books as CSV or XLSX; a fault is told with its line |
//! | `parts` | the list of parts and the quote, as CSV and workbooks |
//! | [`drawing`] | the ground: layers of other people's drawings to kinds of thing; ours out |
//! | [`picture`] | scans and photos, packed anew |
//! | [`foreign`] | all of these by a process of its own, and what it hands over |
//!
//! Not here: binary drawings (DWG), pictures that move, and links to other files inside a file: none
//! is followed.
#![forbid(unsafe_code)]
#![deny(missing_docs)]

mod calendar;
mod chart;
mod climate;
pub mod controller;
pub mod drawing;
mod error;
pub mod foreign;
mod job;
mod job_pack;
mod network;
mod parts;
pub mod picture;
mod prices;
mod sheet;

pub use calendar::write_calendar;
pub use chart::{ChartFault, MOST_CHART, read_chart, write_chart};
pub use climate::{MOST_CLIMATE, read_climate};
pub use error::ReadError;
pub use job::{job_schema, read_job, write_job};
pub use job_pack::pack_job;
pub use network::{read_network, write_network, write_result};
pub use parts::{parts_workbook, prices_workbook, quote_workbook, write_parts};
pub use prices::{MOST_PRICE_ROWS, MOST_PRICES, read_prices, write_prices};
pub use sheet::write_sheet;
