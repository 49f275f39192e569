//! Reference evapotranspiration: of short grass that never lacks water.

use std::f64::consts::PI;

/// Solar constant, MJ/m2/min.
const SOLAR: f64 = 0.0820;
/// Stefan and Boltzmann's constant, MJ/K4/m2/day.
const STEFAN: f64 = 4.903e-9;
/// Depth of water that a MJ/m2 evaporates, mm.
const MM_PER_MJ: f64 = 0.408;
/// What grass throws back of the sun.
const ALBEDO: f64 = 0.23;
/// What of the sun's radiation arrives under a closed sky, and more on a clear day: FAO-56's usual figures.
const OVERCAST: f64 = 0.25;
const CLEAR: f64 = 0.50;

/// What of the air is known.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Air {
    /// Greatest and least relative humidity of the day, percent.
    Humidity {
        /// Greatest.
        most: f64,
        /// Least.
        least: f64,
    },
    /// Actual vapour pressure, kPa.
    Vapour(f64),
}

/// One day, or the mean of some.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Weather {
    /// Highest temperature, °C.
    pub high: f64,
    /// Lowest temperature, °C.
    pub low: f64,
    /// Water in the air.
    pub air: Air,
    /// Wind two metres over the ground, m/s.
    pub wind: f64,
    /// Solar radiation at the ground, MJ/m2/day.
    pub sun: f64,
    /// Heat that goes into the soil, MJ/m2/day: 0 for a day, for a month 0.14 times the rise from the month
    /// before, °C.
    pub soil_heat: f64,
}

fn relative_distance(day: u32) -> f64 {
    1.0 + 0.033 * (2.0 * PI * f64::from(day) / 365.0).cos()
}

fn declination(day: u32) -> f64 {
    0.409 * (2.0 * PI * f64::from(day) / 365.0 - 1.39).sin()
}

/// Hour angle at sunset, radians: 0 where the sun doesn't rise, π where it doesn't set.
fn sunset(latitude: f64, day: u32) -> f64 {
    (-latitude.to_radians().tan() * declination(day).tan()).clamp(-1.0, 1.0).acos()
}

/// Radiation above the air, MJ/m2/day, by latitude (degrees, north positive, -89 to 89) and day of the year
/// (1 to 366): Ra = 24·60/π Gsc dr (ωs sin φ sin δ + cos φ cos δ sin ωs).
///
/// # Source
/// Allen, Pereira, Raes and Smith (1998), FAO Irrigation and Drainage Paper 56, equation 21.
///
/// # Example
/// 20° south on 3 September (day 246): 32.2 (their example 8).
pub fn extraterrestrial_radiation(latitude: f64, day: u32) -> f64 {
    let (phi, delta, omega) = (latitude.to_radians(), declination(day), sunset(latitude, day));
    let geometry = omega * phi.sin() * delta.sin() + phi.cos() * delta.cos() * omega.sin();
    (24.0 * 60.0 / PI * SOLAR * relative_distance(day) * geometry).max(0.0)
}

/// Solar radiation at the ground, MJ/m2/day, from hours of sunshine: (0.25 + 0.50 n/N) Ra, with the longest
/// day N = 24/π ωs. Hours over the day's length count as the whole day.
///
/// # Source
/// FAO-56 (1998), equations 34 and 35.
pub fn from_sunshine(latitude: f64, day: u32, hours: f64) -> f64 {
    let longest = 24.0 / PI * sunset(latitude, day);
    let share = if longest > 0.0 { (hours / longest).clamp(0.0, 1.0) } else { 0.0 };
    (OVERCAST + CLEAR * share) * extraterrestrial_radiation(latitude, day)
}

/// Wind at 2 m, m/s, from wind read `height` metres up (over 0.2): u 4.87 / ln(67.8 z - 5.42).
///
/// # Source
/// FAO-56 (1998), equation 47. 10 km/h at 10 m: 2.08 m/s.
pub fn wind_at_two_metres(wind: f64, height: f64) -> f64 {
    wind * 4.87 / (67.8 * height.max(0.2) - 5.42).ln()
}

/// Reference evapotranspiration from temperatures alone, mm/day, never negative:
/// 0.0023 (T + 17.8) √(high - low) Ra / λ. Temperatures in °C, Ra in MJ/m2/day. Good for means of a week
/// and longer.
///
/// # Source
/// Hargreaves and Samani (1985).
///
/// # Example
/// 26.6 and 14.8 °C under 40.55 MJ/m2/day: 5.0 mm/day (FAO-56, example 20).
pub fn hargreaves_samani(high: f64, low: f64, radiation: f64) -> f64 {
    let mean = (high + low) / 2.0;
    (0.0023 * (mean + 17.8) * (high - low).max(0.0).sqrt() * radiation * MM_PER_MJ).max(0.0)
}

/// Saturation vapour pressure at a temperature, kPa.
fn saturated(celsius: f64) -> f64 {
    0.6108 * (17.27 * celsius / (celsius + 237.3)).exp()
}

/// Reference evapotranspiration, mm/day, never negative, at a latitude (degrees) and elevation (metres) on a
/// day of the year:
/// (0.408 Δ (Rn - G) + γ 900 / (T + 273) u2 (es - ea)) / (Δ + γ (1 + 0.34 u2)).
///
/// # Source
/// FAO-56 (1998), equation 6, with net radiation by its equations 37 to 40.
///
/// # Example
/// 50.80 N, 100 m, 6 July, 21.5 and 12.3 °C, humidity 84 and 63 %, 2.078 m/s, 9.25 h of sun: 3.9 mm/day
/// (example 18).
pub fn penman_monteith(weather: &Weather, latitude: f64, elevation: f64, day: u32) -> f64 {
    let Weather { high, low, wind, .. } = *weather;
    let mean = (high + low) / 2.0;
    let es = (saturated(high) + saturated(low)) / 2.0;
    let ea = match weather.air {
        Air::Vapour(kpa) => kpa,
        Air::Humidity { most, least } => {
            (saturated(low) * most / 100.0 + saturated(high) * least / 100.0) / 2.0
        }
    };
    let slope = 4098.0 * saturated(mean) / (mean + 237.3).powi(2);
    let pressure = 101.3 * ((293.0 - 0.0065 * elevation) / 293.0).powf(5.26);
    let gamma = 0.665e-3 * pressure;
    let clear_sky = (0.75 + 2e-5 * elevation) * extraterrestrial_radiation(latitude, day);
    let cloud = if clear_sky > 0.0 { (weather.sun / clear_sky).min(1.0) } else { 0.0 };
    let kelvin = |c: f64| (c + 273.16).powi(4);
    let long = STEFAN * (kelvin(high) + kelvin(low)) / 2.0
        * (0.34 - 0.14 * ea.max(0.0).sqrt())
        * (1.35 * cloud - 0.35);
    let net = (1.0 - ALBEDO) * weather.sun - long;
    let by_sun = MM_PER_MJ * slope * (net - weather.soil_heat);
    let by_wind = gamma * 900.0 / (mean + 273.0) * wind * (es - ea).max(0.0);
    ((by_sun + by_wind) / (slope + gamma * (1.0 + 0.34 * wind))).max(0.0)
}
