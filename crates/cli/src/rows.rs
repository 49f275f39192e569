//! How long a row may be.

use crate::args::RowsArgs;
use crate::io::{BadInput, print};
use crate::report;
use anyhow::Result;
use fenlo_core::drip::{RowAsk, longest_row};
use fenlo_core::network::Emission;
use fenlo_core::units::{Flow, Length, Pressure, UnitSystem};
use std::str::FromStr;

pub fn run(args: &RowsArgs) -> Result<()> {
    let mut faults = Vec::new();
    let inlet: Pressure = read(&mut faults, "inlet", &args.inlet, Sign::Positive);
    let flow: Flow = read(&mut faults, "emitter", &args.emitter, Sign::Positive);
    let spacing: Length = read(&mut faults, "every", &args.every, Sign::Positive);
    let inside: Length = read(&mut faults, "inside", &args.inside, Sign::Positive);
    let least: Pressure = read(&mut faults, "least", &args.least, Sign::NotNegative);
    let most: Pressure = read(&mut faults, "most", &args.most, Sign::Positive);
    let at: Pressure = read(&mut faults, "at", &args.at, Sign::Positive);
    let mut within = |ok: bool, say: &str| {
        if !ok {
            faults.push(say.to_owned());
        }
    };
    within((10.0..=200.0).contains(&args.c), "--c: Hazen-Williams C must be 10 to 200; 140 for drip tubing");
    within((0.0..=2.0).contains(&args.exponent), "--exponent: from 0 (compensating) to 2");
    let percent = args.slope.trim().trim_end_matches('%').trim().parse::<f64>();
    let slope = percent.ok().filter(|s| s.abs() <= 100.0);
    within(slope.is_some(), "--slope: percent from -100 to 100, such as 3%; positive is uphill");
    if !faults.is_empty() {
        return Err(BadInput::from(faults.join("\n")));
    }
    let emission = if args.exponent == 0.0 {
        Emission::Compensating { flow, min: least }
    } else {
        Emission::Orifice { flow, at_pressure: at, exponent: args.exponent, regulator: None }
    };
    let ask = RowAsk {
        inlet,
        emission,
        spacing,
        inside,
        c: args.c,
        slope: slope.unwrap_or_default() / 100.0,
        least,
        most,
    };
    let units = if args.metric { UnitSystem::Metric } else { UnitSystem::Us };
    print(&report::rows(&ask, &longest_row(&ask), args.json, units))
}

#[derive(PartialEq)]
enum Sign {
    Positive,
    NotNegative,
}

/// Reads a quantity with its unit; what is wrong goes to the faults, at its flag.
fn read<Q>(faults: &mut Vec<String>, flag: &str, text: &str, sign: Sign) -> Q
where
    Q: FromStr + Default + PartialOrd + Copy,
    Q::Err: std::fmt::Display,
{
    match text.parse::<Q>() {
        Ok(value) if value > Q::default() || sign == Sign::NotNegative && value >= Q::default() => value,
        Ok(_) => {
            faults.push(format!("--{flag}: ‘{text}’ must be more than zero"));
            Q::default()
        }
        Err(fault) => {
            faults.push(format!("--{flag}: {fault}"));
            Q::default()
        }
    }
}
