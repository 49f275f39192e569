use crate::site::Soil;
use crate::units::{Length, Minutes, Rate};

/// What a soil takes in and holds. Planning figures.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct SoilWater {
    /// Taken in without end.
    pub intake: Rate,
    /// Water that roots find in a depth of soil, as a share of that depth.
    pub available: f64,
    /// Taken in and held by the surface before water runs off, by slope: 0 to 3, to 6, to 12 percent,
    /// steeper.
    pub surface: [Length; 4],
}

/// Intake in/h, available water in/in, surface storage in by slope class.
const fn figures(soil: Soil) -> (f64, f64, [f64; 4]) {
    match soil {
        Soil::Clay => (0.10, 0.17, [0.20, 0.15, 0.10, 0.10]),
        Soil::SiltyClay => (0.15, 0.17, [0.23, 0.19, 0.16, 0.13]),
        Soil::ClayLoam => (0.20, 0.18, [0.26, 0.22, 0.18, 0.15]),
        Soil::SiltLoam => (0.30, 0.17, [0.28, 0.23, 0.19, 0.16]),
        Soil::Loam => (0.35, 0.17, [0.30, 0.25, 0.21, 0.17]),
        Soil::SandyLoam => (0.40, 0.12, [0.33, 0.29, 0.24, 0.20]),
        Soil::LoamySand => (0.50, 0.08, [0.36, 0.30, 0.26, 0.22]),
        Soil::Sand => (0.60, 0.06, [0.40, 0.35, 0.30, 0.25]),
    }
}

impl SoilWater {
    /// The figures of a soil.
    pub fn of(soil: Soil) -> Self {
        let (intake, available, surface) = figures(soil);
        Self { intake: Rate::from_mmph(intake * 25.4), available, surface: surface.map(Length::from_in) }
    }

    /// What the surface holds on a slope, percent: classes end at 3, 6 and 12.
    pub fn surface_on(&self, slope_percent: f64) -> Length {
        let class = [3.0, 6.0, 12.0].iter().filter(|end| slope_percent > **end).count();
        self.surface[class]
    }

    /// The longest run before water runs off: 60 ASA / (rate - intake), minutes; none where the soil takes
    /// in all that is applied.
    ///
    /// # Example
    /// 1.6 in/h on clay at 8 %: 60 · 0.10 / 1.50 = 4.0 min; 0.45 in/h on loam at 5 %: 150 min.
    pub fn longest_run(&self, rate: Rate, slope_percent: f64) -> Option<Minutes> {
        let over = rate.mmph() - self.intake.mmph();
        let held = self.surface_on(slope_percent).mm();
        (over > 1e-9).then(|| Minutes::from_minutes(60.0 * held / over))
    }

    /// How long the surface takes to drain: 60 ASA / intake, minutes. Clay at 8 %: 60 min.
    pub fn soak(&self, slope_percent: f64) -> Minutes {
        Minutes::from_minutes(60.0 * self.surface_on(slope_percent).mm() / self.intake.mmph())
    }

    /// What roots of a depth may use up before they are watered again: half of what they find.
    ///
    /// # Example
    /// 6 in on loam: 6 · 0.17 · 0.5 = 0.51 in.
    pub fn dose(&self, roots: Length) -> Length {
        roots * self.available * ALLOWED_DEPLETION
    }
}

/// Share of the water at the roots that may be used up.
const ALLOWED_DEPLETION: f64 = 0.5;
