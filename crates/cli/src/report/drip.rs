//! Drip as it is laid, and rows as long as they may be, as text and as JSON.

use fenlo_core::assess::DripReport;
use fenlo_core::drip::{LongestRow, RowAsk};
use fenlo_core::units::UnitSystem;
use fenlo_words as words;
use serde_json::{Value, json};
use std::fmt::Write;

pub fn json(d: &DripReport) -> Value {
    json!({
        "rows": d.rows,
        "emitters": d.emitters,
        "tubing_m": d.tubing.m(),
        "headers_m": d.plain.m(),
        "flow_lpm": d.flow.lpm(),
        "lowest_kpa": d.lowest.kpa(),
        "highest_kpa": d.highest.kpa(),
        "flush_mps": d.flush.map(|v| v.mps()),
        "rate_mmph": d.rate.mmph(),
        "longest_row_m": d.longest_row.m(),
    })
}

/// A line of text under its valve.
pub fn text(out: &mut String, d: &DripReport, u: UnitSystem) {
    let rows = match d.rows {
        0 => String::new(),
        1 => "1 row, ".to_owned(),
        n => format!("{n} rows, "),
    };
    let flush = d.flush.map_or(String::new(), |v| format!("; flushed at {} at the slowest", v.show(u)));
    line!(
        out,
        "     drip: {rows}{} on {}, {}; {} to {}{flush}",
        words::counted(d.emitters, "emitter"),
        d.tubing.show(u),
        d.rate.show(u),
        d.lowest.number(u),
        d.highest.show(u)
    );
}

/// How long a row may be.
pub fn rows(ask: &RowAsk, row: &LongestRow, as_json: bool, u: UnitSystem) -> String {
    if as_json {
        return super::pretty(&json!({
            "emitters": row.emitters,
            "length_m": row.length.m(),
            "flow_lpm": row.flow.lpm(),
            "last_kpa": row.last.kpa(),
            "lowest_kpa": row.lowest.kpa(),
            "ends": words::row_end(row, &ask.least.show(u)),
        }));
    }
    let mut out = String::new();
    line!(
        out,
        "{}, {}, {}; {} at the last, {} at the lowest",
        words::counted(row.emitters, "emitter"),
        row.length.show(u),
        words::fine_flow(row.flow, u),
        row.last.show(u),
        row.lowest.show(u)
    );
    line!(out, "{}", words::row_end(row, &ask.least.show(u)));
    out
}
