//! The hours in which watering may run, as minutes after the window opens.

use crate::plan::{Clock, DAY, WateringRules};

/// A night's window.
#[derive(Debug, Clone, PartialEq)]
pub struct Window {
    /// When it opens.
    pub opens: Clock,
    /// Its length to the closing, minutes.
    pub length: u32,
    /// Stretches that are closed all the same, minutes after the opening, for two weeks.
    pub closed: Vec<(u32, u32)>,
}

impl Window {
    /// Of a supplier's rules. A window that closes before it opens runs over midnight.
    pub fn of(rules: &WateringRules) -> Self {
        let length = rules.opens.until(rules.closes);
        let closed = rules.closed.filter(|c| c.from != c.to).map_or_else(Vec::new, |closed| {
            let lasts = closed.from.until(closed.to);
            let first = (closed.from.minutes() + DAY - rules.opens.minutes()) % DAY;
            // The stretch of the day before may still hold when the window opens.
            let before = (first + lasts).checked_sub(DAY).filter(|end| *end > 0).map(|end| (0, end));
            let days = (0..14).map(|day| (first + day * DAY, first + day * DAY + lasts));
            before.into_iter().chain(days).collect()
        });
        Self { opens: rules.opens, length, closed }
    }

    /// Minutes of the window in which something may run.
    pub fn open_minutes(&self) -> u32 {
        let shut = |(from, to): &(u32, u32)| to.min(&self.length).saturating_sub(*from);
        self.length - self.closed.iter().map(shut).sum::<u32>().min(self.length)
    }

    /// The time of day so many minutes after the opening.
    pub fn clock(&self, minute: u32) -> Clock {
        self.opens.later(minute)
    }
}
