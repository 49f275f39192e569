pub mod network;
pub mod units;
