//! One day's minutes in cycles that the soil takes.

/// How a day's minutes are cut.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Cycles {
    /// How many.
    pub count: u32,
    /// Whole minutes of each.
    pub minutes: u32,
    /// Whole minutes from the end of one to the beginning of the next.
    pub soak: u32,
}

impl Cycles {
    /// Minutes that run.
    pub fn running(&self) -> u32 {
        self.count * self.minutes
    }
    /// From the beginning of the first to the end of the last.
    pub fn chain(&self) -> u32 {
        self.running() + self.count.saturating_sub(1) * self.soak
    }
}

/// A hair over a whole minute is that minute: nobody waters for three seconds.
const HAIR: f64 = 0.05;

/// Whole minutes that hold so many.
pub fn whole(minutes: f64) -> u32 {
    (minutes - HAIR).ceil().max(0.0) as u32
}

/// Cuts a day's minutes into cycles of whole minutes, as controllers count, none longer than `longest` (but
/// never under a minute), with `soak` between them. Rounded up: no minute of need is lost.
///
/// # Example
/// 24 min where 4.0 run before water runs off, 60 min of soak: 6 cycles of 4. 69.6 min where 150 run: one of
/// 70.
pub fn cycles(minutes: f64, longest: Option<f64>, soak: f64) -> Cycles {
    let total = f64::from(whole(minutes)).min(minutes);
    let count = match longest.map(|l| (l + HAIR).floor().max(1.0)) {
        _ if total <= 0.0 => 0,
        Some(most) => (total / most - 1e-9).ceil().max(1.0) as u32,
        None => 1,
    };
    if count == 0 {
        return Cycles { count: 0, minutes: 0, soak: 0 };
    }
    Cycles {
        count,
        minutes: whole(minutes / f64::from(count)).max(1),
        soak: if count > 1 { whole(soak) } else { 0 },
    }
}
