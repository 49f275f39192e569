//! The controller sheet as CSV: a row a station, its minutes by month with the days between waterings.

use crate::prices::plain;
use fenlo_core::job::Job;
use fenlo_core::runtime::Sheet;

/// Writes the sheet. Cells that a spreadsheet might run as a formula are made plain text.
pub fn write_sheet(job: &Job, sheet: &Sheet) -> String {
    let mut writer = csv::Writer::from_writer(Vec::new());
    let mut header: Vec<String> =
        ["controller", "programme", "station", "name", "cycles", "soak min", "start times"]
            .map(String::from)
            .to_vec();
    for m in 1..=12 {
        header.extend([format!("cycles x minutes, month {m}"), format!("days between, month {m}")]);
    }
    let _ = writer.write_record(&header);
    for (place, station) in sheet.peak.stations.iter().enumerate().filter(|(_, s)| !s.later) {
        let programme = sheet.programme(place);
        let window = &sheet.peak.night.window;
        let starts = programme
            .map_or_else(Vec::new, |(_, p)| p.starts.iter().map(|s| window.clock(*s).to_string()).collect());
        let wish = job.watering.station(&station.valve);
        let mut row = vec![
            wish.map_or(1, |w| w.controller).to_string(),
            programme.map_or_else(String::new, |(letter, _)| letter.to_string()),
            station.number.to_string(),
            plain(&station.name),
            station.cycles.count.to_string(),
            station.cycles.soak.to_string(),
            starts.join(" "),
        ];
        for month in &sheet.months {
            let own = &month.stations[place];
            let days = own.days.as_ref().filter(|_| own.runs());
            row.extend([
                format!("{}x{}", own.cycles.count, own.cycles.minutes),
                days.map_or_else(String::new, |d| format!("{:.2}", d.mean_gap)),
            ]);
        }
        let _ = writer.write_record(&row);
    }
    let mut adjust = vec![String::new(); 7];
    adjust[3] = "seasonal adjust %".into();
    for month in &sheet.months {
        adjust.extend([format!("{:.0}", month.adjust * 100.0), String::new()]);
    }
    let _ = writer.write_record(&adjust);
    writer.into_inner().ok().and_then(|bytes| String::from_utf8(bytes).ok()).unwrap_or_default()
}
