//! The controller sheet as CSV: a row a station, its minutes by month.

use fenlo_core::job::Job;
use fenlo_core::runtime::Sheet;

/// Writes the sheet. Cells that a spreadsheet might run as a formula are made plain text.
pub fn write_sheet(job: &Job, sheet: &Sheet) -> String {
    let mut writer = csv::Writer::from_writer(Vec::new());
    let mut header: Vec<String> = [
        "controller",
        "programme",
        "station",
        "name",
        "days between",
        "cycles",
        "soak min",
        "start times",
    ]
    .map(String::from)
    .to_vec();
    header.extend((1..=12).map(|m| format!("minutes month {m}")));
    let _ = writer.write_record(&header);
    for (place, station) in sheet.peak.stations.iter().enumerate().filter(|(_, s)| !s.later) {
        let programme = sheet.programme(place);
        let window = &sheet.peak.night.window;
        let starts = programme.map_or_else(Vec::new, |(_, p)| {
            p.starts.iter().map(|s| window.clock(*s).to_string()).collect()
        });
        let wish = job.watering.station(&station.valve);
        let mut row = vec![
            wish.map_or(1, |w| w.controller).to_string(),
            programme.map_or_else(String::new, |(letter, _)| letter.to_string()),
            station.number.to_string(),
            plain(&station.name),
            station
                .days
                .as_ref()
                .map_or_else(String::new, |d| format!("{:.2}", d.mean_gap)),
            station.cycles.count.to_string(),
            station.cycles.soak.to_string(),
            starts.join(" "),
        ];
        row.extend(sheet.months.iter().map(|m| {
            let cycles = m.stations[place].cycles;
            format!("{}x{}", cycles.count, cycles.minutes)
        }));
        let _ = writer.write_record(&row);
    }
    let mut adjust = vec![String::new(); 7];
    adjust[3] = "seasonal adjust %".into();
    adjust.push(String::new());
    adjust.extend(sheet.months.iter().map(|m| format!("{:.0}", m.adjust * 100.0)));
    let _ = writer.write_record(&adjust);
    writer
        .into_inner()
        .ok()
        .and_then(|bytes| String::from_utf8(bytes).ok())
        .unwrap_or_default()
}

/// A name that no spreadsheet runs.
fn plain(name: &str) -> String {
    if name.starts_with(['=', '+', '-', '@', '\t', '\r']) {
        format!("'{name}")
    } else {
        name.to_owned()
    }
}
