use fenlo_core::plan::Date;
use std::time::{SystemTime, UNIX_EPOCH};

/// Today, by this machine's clock.
pub fn today() -> Date {
    let since = SystemTime::now().duration_since(UNIX_EPOCH);
    Date::after_1970(since.map_or(0, |d| d.as_secs()))
}
