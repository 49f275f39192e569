//! Nozzle charts as CSV: a header that names its units, a row for every pressure and arc.
//!
//! ```csv
//! name,kind,pressure psi,arc,radius ft,flow gpm,price
//! Field 12,spray,30,360,12,2.4,1.85
//! ```
//!
//! Columns may stand in any order and be written as `pressure_kpa` or `Radius (m)`; `kind` may be left
//! out where one is given, `arc` counts as 360, `price` as none. Rows of one name are one nozzle.

use fenlo_core::catalogue::{ChartRow, Kind, OwnNozzle};
use fenlo_core::units::{Flow, Length, Pressure};
use rust_decimal::Decimal;
use std::fmt::Write;

/// Largest file that is read, bytes.
pub const MOST_CHART: usize = 500_000;
const MOST_ROWS: usize = 5_000;
const MOST_FAULTS: usize = 50;

/// Something in a chart that can't be used.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ChartFault {
    /// Line of the file, from 1.
    pub line: usize,
    /// What is wrong and what is expected.
    pub message: String,
}

/// Nozzles of a chart, and what of it can't be used. Nozzles with a fault in any row are left out.
pub fn read_chart(
    text: &str,
    kind: Option<Kind>,
    id: impl Fn(&str) -> String,
) -> (Vec<OwnNozzle>, Vec<ChartFault>) {
    let mut faults = Vec::new();
    if text.len() > MOST_CHART {
        return (
            Vec::new(),
            vec![ChartFault {
                line: 1,
                message: format!("the chart is over {} kB", MOST_CHART / 1000),
            }],
        );
    }
    let text = text.trim_start_matches('\u{feff}');
    let delimiter = if text
        .lines()
        .next()
        .is_some_and(|l| l.matches(';').count() > l.matches(',').count())
    {
        b';'
    } else {
        b','
    };
    let mut reader = csv::ReaderBuilder::new()
        .delimiter(delimiter)
        .flexible(true)
        .trim(csv::Trim::All)
        .from_reader(text.as_bytes());
    let header: Vec<String> = reader
        .headers()
        .map(|h| h.iter().map(str::to_lowercase).collect())
        .unwrap_or_default();
    let columns = Columns::of(&header);
    for missing in columns.missing(kind) {
        faults.push(ChartFault {
            line: 1,
            message: missing,
        });
    }
    if !faults.is_empty() {
        return (Vec::new(), faults);
    }
    let mut nozzles: Vec<OwnNozzle> = Vec::new();
    let mut broken: Vec<String> = Vec::new();
    for (i, record) in reader.records().enumerate() {
        if i >= MOST_ROWS {
            faults.push(ChartFault {
                line: i + 2,
                message: format!("at most {MOST_ROWS} rows; the rest was not read"),
            });
            break;
        }
        let (line, record) = match record {
            Ok(r) => (r.position().map_or(i + 2, |p| p.line() as usize), r),
            Err(e) => {
                faults.push(ChartFault {
                    line: e.position().map_or(i + 2, |p| p.line() as usize),
                    message: "is not text in UTF-8".into(),
                });
                continue;
            }
        };
        if record.iter().all(str::is_empty) {
            continue;
        }
        let name = columns
            .name
            .and_then(|c| record.get(c))
            .unwrap_or_default()
            .chars()
            .take(80)
            .collect::<String>();
        match columns.row(&record, kind) {
            Ok((kind, row, price)) if !name.is_empty() => {
                match nozzles.iter_mut().find(|n| n.label == name && n.kind == kind) {
                    Some(n) => {
                        n.chart.push(row);
                        n.price = n.price.or(price);
                    }
                    None => nozzles.push(OwnNozzle {
                        id: id(&name),
                        label: name,
                        kind,
                        chart: vec![row],
                        price,
                    }),
                }
            }
            Ok(_) => faults.push(ChartFault {
                line,
                message: "has no name in the first column that is called name".into(),
            }),
            Err(messages) => {
                faults.extend(messages.into_iter().map(|message| ChartFault { line, message }));
                broken.push(name);
            }
        }
        if faults.len() >= MOST_FAULTS {
            faults.push(ChartFault {
                line,
                message: "more faults follow; mend these first".into(),
            });
            break;
        }
    }
    nozzles.retain(|n| !broken.contains(&n.label));
    if nozzles.is_empty() && faults.is_empty() {
        faults.push(ChartFault {
            line: 1,
            message: "holds no rows".into(),
        });
    }
    (nozzles, faults)
}

/// Which column holds what, and in which unit.
struct Columns {
    name: Option<usize>,
    kind: Option<usize>,
    pressure: Option<(usize, String)>,
    arc: Option<usize>,
    radius: Option<(usize, String)>,
    flow: Option<(usize, String)>,
    price: Option<usize>,
}

impl Columns {
    fn of(header: &[String]) -> Self {
        let find = |names: &[&str]| header.iter().position(|h| names.iter().any(|n| h.starts_with(n)));
        let with_unit = |names: &[&str]| {
            let at = find(names)?;
            let rest = names
                .iter()
                .find_map(|n| header[at].strip_prefix(n))
                .unwrap_or_default();
            Some((
                at,
                rest.trim_matches(|c: char| !c.is_alphanumeric() && c != '/')
                    .replace('_', "/"),
            ))
        };
        Self {
            name: find(&["name", "nozzle", "label", "model"]),
            kind: find(&["kind", "type"]),
            pressure: with_unit(&["pressure"]),
            arc: find(&["arc", "degrees"]),
            radius: with_unit(&["radius", "throw"]),
            flow: with_unit(&["flow"]),
            price: find(&["price", "cost"]),
        }
    }

    fn missing(&self, kind: Option<Kind>) -> Vec<String> {
        let mut out = Vec::new();
        if self.name.is_none() {
            out.push("the header has no column ‘name’".to_owned());
        }
        if self.kind.is_none() && kind.is_none() {
            out.push(
                "the header has no column ‘kind’ (spray, rotator, rotator-short, rotor-short, \
                rotor-mid, rotor-large)"
                    .to_owned(),
            );
        }
        let mut unit = |what: &str,
                        column: &Option<(usize, String)>,
                        units: &str,
                        known: &dyn Fn(&str) -> bool| match column {
            None => out.push(format!(
                "the header has no column ‘{what}’, e.g. ‘{what} {units}’"
            )),
            Some((_, u)) if !known(u) => out.push(format!(
                "the header does not say the unit of {what}: write e.g. ‘{what} {units}’"
            )),
            Some(_) => {}
        };
        unit("pressure", &self.pressure, "psi", &|u| {
            format!("1 {u}").parse::<Pressure>().is_ok()
        });
        unit("radius", &self.radius, "ft", &|u| {
            format!("1 {u}").parse::<Length>().is_ok()
        });
        unit("flow", &self.flow, "gpm", &|u| {
            format!("1 {u}").parse::<Flow>().is_ok()
        });
        out
    }

    fn row(
        &self,
        record: &csv::StringRecord,
        kind: Option<Kind>,
    ) -> Result<(Kind, ChartRow, Option<Decimal>), Vec<String>> {
        let mut faults = Vec::new();
        fn read<T: std::str::FromStr>(
            what: &str,
            column: &Option<(usize, String)>,
            record: &csv::StringRecord,
            faults: &mut Vec<String>,
        ) -> Option<T> {
            let (at, unit) = column.as_ref()?;
            let text = record.get(*at).unwrap_or_default();
            let number = text
                .replace(',', ".")
                .parse::<f64>()
                .ok()
                .filter(|n| n.is_finite() && *n > 0.0 && *n < 1e6);
            if number.is_none() {
                faults.push(format!(
                    "{what} is ‘{}’: expected a number over zero",
                    text.chars().take(20).collect::<String>()
                ));
            }
            format!("{} {unit}", number?).parse().ok()
        }
        let pressure: Option<Pressure> = read("pressure", &self.pressure, record, &mut faults);
        let radius: Option<Length> = read("radius", &self.radius, record, &mut faults);
        let flow: Option<Flow> = read("flow", &self.flow, record, &mut faults);
        let arc_text = self
            .arc
            .and_then(|c| record.get(c))
            .unwrap_or_default()
            .trim_end_matches('°');
        let arc = if arc_text.is_empty() {
            Some(360)
        } else {
            arc_text
                .parse::<f64>()
                .ok()
                .filter(|a| (20.0..=360.0).contains(a))
                .map(|a| a.round() as u16)
        };
        if arc.is_none() {
            faults.push(format!(
                "arc is ‘{}’: expected 20 to 360 degrees",
                arc_text.chars().take(20).collect::<String>()
            ));
        }
        let kind_text = self
            .kind
            .and_then(|c| record.get(c))
            .unwrap_or_default()
            .to_lowercase()
            .replace(' ', "-");
        let known = if kind_text.is_empty() {
            kind
        } else {
            serde_json::from_value(kind_text.clone().into()).ok()
        };
        if known.is_none() {
            faults.push(format!(
                "kind is ‘{}’: expected spray, rotator, rotator-short, rotor-short, rotor-mid or \
                    rotor-large",
                kind_text.chars().take(20).collect::<String>()
            ));
        }
        let price_text = self.price.and_then(|c| record.get(c)).unwrap_or_default();
        let price = price_text.parse::<Decimal>().ok();
        if !price_text.is_empty() && price.is_none() {
            faults.push(format!(
                "price is ‘{}’: expected a number, e.g. 1.85",
                price_text.chars().take(20).collect::<String>()
            ));
        }
        match (known, pressure, radius, flow, arc) {
            (Some(kind), Some(pressure), Some(radius), Some(flow), Some(arc)) if faults.is_empty() => Ok((
                kind,
                ChartRow {
                    pressure,
                    arc,
                    radius,
                    flow,
                },
                price,
            )),
            _ => Err(faults),
        }
    }
}

/// Nozzles as a chart that reads back the same, in US units.
pub fn write_chart(nozzles: &[OwnNozzle]) -> String {
    let mut out = String::from("name,kind,pressure psi,arc,radius ft,flow gpm,price\n");
    let exact = |v: f64| {
        format!("{:.6}", v)
            .trim_end_matches('0')
            .trim_end_matches('.')
            .to_owned()
    };
    for n in nozzles {
        let kind = serde_json::to_value(n.kind)
            .ok()
            .and_then(|v| v.as_str().map(str::to_owned))
            .unwrap_or_default();
        // A sheet takes a cell that begins so for a formula.
        let safe = if n.label.starts_with(['=', '+', '-', '@']) {
            format!("'{}", n.label)
        } else {
            n.label.clone()
        };
        let name = if safe.contains([',', '"', '\n']) {
            format!("\"{}\"", safe.replace('"', "\"\""))
        } else {
            safe
        };
        for row in &n.chart {
            let price = n.price.map_or(String::new(), |p| p.to_string());
            let _ = writeln!(
                out,
                "{name},{kind},{},{},{},{},{price}",
                exact(row.pressure.psi()),
                row.arc,
                exact(row.radius.ft()),
                exact(row.flow.gpm())
            );
        }
    }
    out
}
