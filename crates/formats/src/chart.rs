//! Nozzle charts as CSV: a header that names its units, a row for every pressure and arc.
//!
//! ```csv
//! name,kind,pressure psi,arc,radius ft,flow gpm,price
//! Field 12,spray,30,360,12,2.4,1.85
//! ```
//!
//! Columns may stand in any order and be written as `pressure_kpa`, `Radius (m)`, or `PSI`, `ft`, `GPM`
//! alone; commas, semicolons or tabs part them; lines before the header are passed over. `kind` may be left
//! out where one is given, `arc` counts as 360, `price` as none. Rows of one name are one nozzle; rows that
//! say different things of the same pressure and arc are faults.

use fenlo_core::catalogue::{ChartRow, Kind, OwnNozzle};
use fenlo_core::units::{Flow, Length, Pressure};
use rust_decimal::Decimal;
use serde::{Deserialize, Serialize};
use std::fmt::Write;

/// Largest file that is read, bytes.
pub const MOST_CHART: usize = 500_000;
const MOST_ROWS: usize = 5_000;
const MOST_FAULTS: usize = 50;

/// Something in a chart that can't be used.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
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
            vec![ChartFault { line: 1, message: format!("the chart is over {} kB", MOST_CHART / 1000) }],
        );
    }
    let text = text.trim_start_matches('\u{feff}');
    let (above, delimiter) = layout(text);
    let start: usize = text.split_inclusive('\n').take(above).map(str::len).sum();
    let text = &text[start..];
    let mut reader = csv::ReaderBuilder::new()
        .delimiter(delimiter)
        .flexible(true)
        .trim(csv::Trim::All)
        .from_reader(text.as_bytes());
    let header: Vec<String> =
        reader.headers().map(|h| h.iter().map(str::to_lowercase).collect()).unwrap_or_default();
    let columns = Columns::of(&header, delimiter == b',');
    for missing in columns.missing(kind) {
        faults.push(ChartFault { line: above + 1, message: missing });
    }
    if !faults.is_empty() {
        return (Vec::new(), faults);
    }
    let mut nozzles: Vec<OwnNozzle> = Vec::new();
    let mut broken: Vec<String> = Vec::new();
    // Lines of the rows, nozzle by nozzle.
    let mut lines: Vec<Vec<usize>> = Vec::new();
    for (i, record) in reader.records().enumerate() {
        if i >= MOST_ROWS {
            faults.push(ChartFault {
                line: above + i + 2,
                message: format!("at most {MOST_ROWS} rows; the rest was not read"),
            });
            break;
        }
        let (line, record) = match record {
            Ok(r) => (above + r.position().map_or(i + 2, |p| p.line() as usize), r),
            Err(e) => {
                faults.push(ChartFault {
                    line: above + e.position().map_or(i + 2, |p| p.line() as usize),
                    message: "is not text in UTF-8".into(),
                });
                continue;
            }
        };
        if record.iter().all(str::is_empty) {
            continue;
        }
        let name =
            columns.name.and_then(|c| record.get(c)).unwrap_or_default().chars().take(80).collect::<String>();
        // As a sheet has it that was kept from taking it for a formula.
        let name = match name.strip_prefix('\'') {
            Some(own) if own.starts_with(FORMULA) => own.to_owned(),
            _ => name,
        };
        match columns.row(&record, kind) {
            Ok((kind, row, price)) if !name.is_empty() => {
                match nozzles.iter().position(|n| n.label == name && n.kind == kind) {
                    Some(at) => {
                        nozzles[at].chart.push(row);
                        nozzles[at].price = nozzles[at].price.or(price);
                        lines[at].push(line);
                    }
                    None => {
                        lines.push(vec![line]);
                        nozzles.push(OwnNozzle { id: id(&name), label: name, kind, chart: vec![row], price });
                    }
                }
            }
            Ok(_) => faults.push(ChartFault { line, message: "has no value in the name column".into() }),
            Err(messages) => {
                faults.extend(messages.into_iter().map(|message| ChartFault { line, message }));
                broken.push(name);
            }
        }
        if faults.len() >= MOST_FAULTS {
            faults.push(ChartFault { line, message: "more errors follow; fix these first".into() });
            break;
        }
    }
    for (nozzle, lines) in nozzles.iter().zip(&lines) {
        let found = contradictions(nozzle, lines);
        if !found.is_empty() {
            broken.push(nozzle.label.clone());
            faults.extend(found.into_iter().take(MOST_FAULTS.saturating_sub(faults.len())));
        }
    }
    faults.sort_by_key(|f| f.line);
    nozzles.retain(|n| !broken.contains(&n.label));
    if nozzles.is_empty() && faults.is_empty() {
        faults.push(ChartFault { line: 1, message: "has no rows".into() });
    }
    (nozzles, faults)
}

/// Cells that a sheet takes for a formula begin so.
const FORMULA: [char; 4] = ['=', '+', '-', '@'];
/// Lines among which a header is looked for.
const TITLE_LINES: usize = 10;

/// Lines above the header, and what parts the columns: the first line that names two columns that are known,
/// by the mark that makes most of them.
fn layout(text: &str) -> (usize, u8) {
    let mark = |line: &str| {
        let count = |mark: u8| line.bytes().filter(|b| *b == mark).count();
        [b'\t', b';', b','].into_iter().max_by_key(|m| (count(*m), *m == b',')).unwrap_or(b',')
    };
    let known = |line: &str, mark: u8| {
        let cells: Vec<String> =
            line.split(char::from(mark)).map(|c| c.trim().trim_matches('"').to_lowercase()).collect();
        let columns = Columns::of(&cells, false);
        let found = [columns.name, columns.kind, columns.arc, columns.price].iter().flatten().count();
        found + [&columns.pressure, &columns.radius, &columns.flow].iter().filter(|c| c.is_some()).count()
    };
    let header = text.lines().take(TITLE_LINES).position(|line| known(line, mark(line)) >= 2).unwrap_or(0);
    (header, mark(text.lines().nth(header).unwrap_or("")))
}

/// Rows of a nozzle that can't both be so: another throw or flow at the same pressure and arc, or less flow
/// at more pressure.
fn contradictions(nozzle: &OwnNozzle, lines: &[usize]) -> Vec<ChartFault> {
    let mut out = Vec::new();
    for (k, b) in nozzle.chart.iter().enumerate() {
        for (i, a) in nozzle.chart[..k].iter().enumerate().filter(|(_, a)| a.arc == b.arc) {
            let apart = (a.pressure.kpa() - b.pressure.kpa()).abs();
            let other = |a: f64, b: f64| (a - b).abs() > 1e-6 * a.abs().max(b.abs());
            let message = if apart < 1e-6 * a.pressure.kpa() {
                (other(a.flow.lpm(), b.flow.lpm()) || other(a.radius.m(), b.radius.m()))
                    .then(|| format!("conflicts with line {} at the same pressure and arc", lines[i]))
            } else {
                let (low, high) = if a.pressure < b.pressure { (a, b) } else { (b, a) };
                (high.flow < low.flow)
                    .then(|| format!("compared with line {}, higher pressure gives less flow", lines[i]))
            };
            if let Some(message) = message {
                out.push(ChartFault { line: lines[k], message });
                break;
            }
        }
    }
    out
}

/// Why a cell gives no number.
enum NotANumber {
    /// Its comma may part thousands or decimals: the question, for people.
    TwoWays(String),
    /// It is no number at all.
    Other,
}

/// A number as charts write it, with a point or a comma; `commas` says that the file itself is parted by
/// commas, so that `1,200` in a cell may be either of two.
fn number(text: &str, commas: bool) -> Result<f64, NotANumber> {
    let thousands = |t: &str| {
        let mut parts = t.split(',');
        let first = parts.next().unwrap_or_default();
        let rest: Vec<&str> = parts.collect();
        let digits =
            |p: &str, n: usize| p.len() <= n && !p.is_empty() && p.bytes().all(|b| b.is_ascii_digit());
        !rest.is_empty() && digits(first, 3) && rest.iter().all(|p| p.len() == 3 && digits(p, 3))
    };
    let (whole, _) = text.split_once('.').unwrap_or((text, ""));
    if thousands(whole) {
        if text.contains('.') || text.matches(',').count() > 1 {
            return text.replace(',', "").parse().map_err(|_| NotANumber::Other);
        }
        if commas {
            let shown: String = text.chars().take(20).collect();
            let (as_thousand, as_decimal) = (shown.replace(',', ""), shown.replace(',', "."));
            return Err(NotANumber::TwoWays(format!(
                "‘{shown}’ could be {as_thousand} or {as_decimal}. Enter one of these"
            )));
        }
    }
    text.replace(',', ".").parse().map_err(|_| NotANumber::Other)
}

/// Which column holds what, and in which unit.
struct Columns {
    /// Columns are parted by commas.
    commas: bool,
    name: Option<usize>,
    kind: Option<usize>,
    pressure: Option<(usize, String)>,
    arc: Option<usize>,
    radius: Option<(usize, String)>,
    flow: Option<(usize, String)>,
    price: Option<usize>,
}

impl Columns {
    fn of(header: &[String], commas: bool) -> Self {
        // A column that is called by its unit alone.
        let unit_alone = |known: &dyn Fn(&str) -> bool| {
            let bare = |h: &String| h.trim_matches(|c: char| !c.is_alphanumeric() && c != '/').to_owned();
            let at = header.iter().position(|h| known(&bare(h)))?;
            Some((at, bare(&header[at])))
        };
        let find = |names: &[&str]| header.iter().position(|h| names.iter().any(|n| h.starts_with(n)));
        let with_unit = |names: &[&str]| {
            let at = find(names)?;
            let rest = names.iter().find_map(|n| header[at].strip_prefix(n)).unwrap_or_default();
            Some((at, rest.trim_matches(|c: char| !c.is_alphanumeric() && c != '/').replace('_', "/")))
        };
        Self {
            name: find(&["name", "nozzle", "label", "model"]),
            kind: find(&["kind", "type"]),
            commas,
            pressure: with_unit(&["pressure"])
                .or_else(|| unit_alone(&|u| format!("1 {u}").parse::<Pressure>().is_ok())),
            arc: find(&["arc", "degrees"]),
            radius: with_unit(&["radius", "throw"])
                .or_else(|| unit_alone(&|u| format!("1 {u}").parse::<Length>().is_ok())),
            flow: with_unit(&["flow"]).or_else(|| unit_alone(&|u| format!("1 {u}").parse::<Flow>().is_ok())),
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
            None => out.push(format!("the header has no column ‘{what}’, e.g. ‘{what} {units}’")),
            Some((_, u)) if !known(u) => {
                out.push(format!("add the unit of {what} to the header, such as ‘{what} {units}’"))
            }
            Some(_) => {}
        };
        unit("pressure", &self.pressure, "psi", &|u| format!("1 {u}").parse::<Pressure>().is_ok());
        unit("radius", &self.radius, "ft", &|u| format!("1 {u}").parse::<Length>().is_ok());
        unit("flow", &self.flow, "gpm", &|u| format!("1 {u}").parse::<Flow>().is_ok());
        out
    }

    fn row(
        &self,
        record: &csv::StringRecord,
        kind: Option<Kind>,
    ) -> Result<(Kind, ChartRow, Option<Decimal>), Vec<String>> {
        let mut faults = Vec::new();
        let commas = self.commas;
        fn read<T: std::str::FromStr>(
            commas: bool,
            what: &str,
            column: &Option<(usize, String)>,
            record: &csv::StringRecord,
            faults: &mut Vec<String>,
        ) -> Option<T> {
            let (at, unit) = column.as_ref()?;
            let text = record.get(*at).unwrap_or_default();
            let number = match number(text, commas) {
                Ok(n) if n.is_finite() && n > 0.0 && n < 1e6 => n,
                Err(NotANumber::TwoWays(why)) => {
                    faults.push(format!("{what} is {why}"));
                    return None;
                }
                _ => {
                    let shown: String = text.chars().take(20).collect();
                    faults.push(format!("{what} is ‘{shown}’: expected a number over zero"));
                    return None;
                }
            };
            format!("{number} {unit}").parse().ok()
        }
        let pressure: Option<Pressure> = read(commas, "pressure", &self.pressure, record, &mut faults);
        let radius: Option<Length> = read(commas, "radius", &self.radius, record, &mut faults);
        let flow: Option<Flow> = read(commas, "flow", &self.flow, record, &mut faults);
        let arc_text = self.arc.and_then(|c| record.get(c)).unwrap_or_default().trim_end_matches('°');
        let arc = if arc_text.is_empty() {
            Some(360)
        } else {
            arc_text.parse::<f64>().ok().filter(|a| (20.0..=360.0).contains(a)).map(|a| a.round() as u16)
        };
        if arc.is_none() {
            faults.push(format!(
                "arc is ‘{}’: expected 20 to 360 degrees",
                arc_text.chars().take(20).collect::<String>()
            ));
        }
        let kind_text =
            self.kind.and_then(|c| record.get(c)).unwrap_or_default().to_lowercase().replace(' ', "-");
        let known =
            if kind_text.is_empty() { kind } else { serde_json::from_value(kind_text.clone().into()).ok() };
        if known.is_none() {
            faults.push(format!(
                "kind is ‘{}’: expected spray, rotator, rotator-short, rotor-short, rotor-mid or \
                    rotor-large",
                kind_text.chars().take(20).collect::<String>()
            ));
        }
        let price_text = self.price.and_then(|c| record.get(c)).unwrap_or_default();
        let price = match number(price_text, commas) {
            Err(NotANumber::TwoWays(why)) => {
                faults.push(format!("price is {why}"));
                None
            }
            _ => {
                // As written, to the last digit.
                let plain = if price_text.contains('.') {
                    price_text.replace(',', "")
                } else {
                    price_text.replace(',', ".")
                };
                let price = plain.parse::<Decimal>().ok().filter(|p| !p.is_sign_negative());
                if !price_text.is_empty() && price.is_none() {
                    let shown: String = price_text.chars().take(20).collect();
                    faults.push(format!("price is ‘{shown}’: expected a number, e.g. 1.85"));
                }
                price
            }
        };
        match (known, pressure, radius, flow, arc) {
            (Some(kind), Some(pressure), Some(radius), Some(flow), Some(arc)) if faults.is_empty() => {
                Ok((kind, ChartRow { pressure, arc, radius, flow }, price))
            }
            _ => Err(faults),
        }
    }
}

/// Nozzles as a chart that reads back the same, in US units.
pub fn write_chart(nozzles: &[OwnNozzle]) -> String {
    let mut out = String::from("name,kind,pressure psi,arc,radius ft,flow gpm,price\n");
    let exact = |v: f64| format!("{:.6}", v).trim_end_matches('0').trim_end_matches('.').to_owned();
    for n in nozzles {
        let kind =
            serde_json::to_value(n.kind).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default();
        // A sheet takes a cell that begins so for a formula.
        let safe = if n.label.starts_with(FORMULA) { format!("'{}", n.label) } else { n.label.clone() };
        let name =
            if safe.contains([',', '"', '\n']) { format!("\"{}\"", safe.replace('"', "\"\"")) } else { safe };
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
