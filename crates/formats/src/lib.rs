//! Open formats in and out: job files (`fenlo-job/1`), networks (`fenlo-network/1`), drawings (DXF,
//! GeoJSON).
//!
//! Readers take bytes of any origin: size and nesting are bounded, unknown keys are refused, and
//! every fault says where in the file it is.

mod chart;
pub mod drawing;
mod error;
mod job;
mod network;
pub mod picture;

pub use chart::{ChartFault, MOST_CHART, read_chart, write_chart};
pub use error::ReadError;
pub use job::{job_schema, read_job, write_job};
pub use network::{read_network, write_network, write_result};
