use super::*;

fn near(found: f64, wanted: f64, off: f64) {
    assert!((found - wanted).abs() <= off, "{found}, wanted {wanted}");
}

#[test]
fn radiation_above_the_air_is_that_of_the_paper() {
    // FAO-56, example 8.
    near(extraterrestrial_radiation(-20.0, 246), 32.2, 0.05);
    // The same as the sun's height summed over the minutes of a day.
    for (latitude, day) in [(50.0f64, 166u32), (50.0, 349), (13.7, 105), (-35.0, 15), (70.0, 172)] {
        let tau = 2.0 * std::f64::consts::PI * f64::from(day) / 365.0;
        let (delta, phi) = (0.409 * (tau - 1.39).sin(), latitude.to_radians());
        let height = |minute: u32| {
            let hour = std::f64::consts::PI * (f64::from(minute) + 0.5 - 720.0) / 720.0;
            (phi.sin() * delta.sin() + phi.cos() * delta.cos() * hour.cos()).max(0.0)
        };
        let sum: f64 = (0..1440).map(height).sum();
        let by_hand = 0.0820 * (1.0 + 0.033 * tau.cos()) * sum;
        near(extraterrestrial_radiation(latitude, day), by_hand, 0.02);
    }
    assert_eq!(extraterrestrial_radiation(80.0, 355), 0.0, "the sun doesn't rise");
    assert!(extraterrestrial_radiation(80.0, 172) > 40.0, "it doesn't set");
}

#[test]
fn a_day_at_a_station_is_that_of_example_18() {
    let wind = wind_at_two_metres(10.0 / 3.6, 10.0);
    near(wind, 2.078, 0.005);
    let weather = Weather {
        high: 21.5,
        low: 12.3,
        air: Air::Humidity { most: 84.0, least: 63.0 },
        wind,
        sun: from_sunshine(50.80, 187, 9.25),
        soil_heat: 0.0,
    };
    near(weather.sun, 22.07, 0.05);
    near(penman_monteith(&weather, 50.80, 100.0, 187), 3.88, 0.03);
}

#[test]
fn a_month_in_the_tropics_is_that_of_example_17() {
    let weather = Weather {
        high: 34.8,
        low: 25.6,
        air: Air::Vapour(2.85),
        wind: 2.0,
        sun: from_sunshine(13.73, 105, 8.5),
        soil_heat: 0.14 * (30.2 - 29.2),
    };
    near(penman_monteith(&weather, 13.73, 2.0, 105), 5.72, 0.03);
}

#[test]
fn temperatures_alone_give_example_20_and_never_less_than_nothing() {
    near(hargreaves_samani(26.6, 14.8, 40.55), 5.03, 0.02);
    assert_eq!(hargreaves_samani(-25.0, -30.0, 5.0), 0.0);
    assert_eq!(hargreaves_samani(10.0, 12.0, 30.0), 0.0, "a high under the low");
}

#[test]
fn the_stations_are_whole_and_their_summers_are_where_they_should_be() {
    assert!(stations().len() >= 6);
    for station in stations() {
        let climate = station.climate();
        assert!(climate.missing().is_empty(), "{}", station.name);
        let peak = climate.peak().unwrap();
        let summer: &[u8] = if station.latitude > 0.0 { &[5, 6, 7, 8] } else { &[11, 12, 1, 2] };
        assert!(summer.contains(&peak.month), "{}: {}", station.name, peak.month);
        // From cool coast to hot basin: 0.8 to 2.6 in a week.
        let inches = peak.et0.inches();
        assert!((0.8..2.6).contains(&inches), "{}: {inches}", station.name);
        assert!(!climate.is_bare(peak.month), "leaves are on in summer");
    }
}

#[test]
fn a_month_that_is_not_there_is_missing_and_the_peak_is_what_rain_leaves() {
    let month = |month, et0: f64, rain: f64| MonthWater {
        month,
        et0: Length::from_in(et0),
        rain: Length::from_in(rain),
    };
    let climate = Climate {
        source: String::new(),
        months: vec![month(7, 1.9, 1.0), month(8, 1.7, 0.0)],
        bare: vec![1],
    };
    assert_eq!(climate.peak().unwrap().month, 8, "1.7 is more than 1.9 - 0.5");
    assert_eq!(climate.missing().len(), 10);
    assert_eq!(climate.month(1), None);
    assert!(climate.is_bare(1));
}
