use crate::args::QuickArgs;
use crate::io::{BadInput, print};
use crate::report;
use anyhow::Result;
use fenlo_core::quick::{Bare, FieldFault, Form, answer};
use fenlo_core::zone::{inputs_of, zone_model};
use fenlo_formats::write_network;

pub fn run(args: &QuickArgs) -> Result<()> {
    let values = |field: &str| args.values(field);
    let form = Form { values: &values, bare: Bare::Refused };
    let job = form.read().map_err(|faults| {
        let lines: Vec<String> = faults.iter().map(line).collect();
        BadInput::from(lines.join("\n"))
    })?;
    let answer = answer(&job);
    if let Some(file) = &args.network {
        let inputs = inputs_of(&job, &job.valves[0])
            .map_err(|fault| BadInput::from(fenlo_words::zone_fault(&fault, job.units)))?;
        std::fs::write(file, write_network(&zone_model(&inputs).network))
            .map_err(|e| BadInput::from(format!("{}: {e}", file.display())))?;
    }
    print(&if args.json { report::quick_json(&job, &answer) } else { report::quick_text(&job, &answer) })
}

/// A fault at its flag; the length of the service line is written with the pipe.
fn line(fault: &FieldFault) -> String {
    let flag = match fault.field {
        "service_length" => "service",
        other => other,
    };
    format!("--{flag}: {}", fault.message)
}

impl QuickArgs {
    fn units(&self) -> &'static str {
        match (self.bar, self.metric) {
            (true, _) => "metric-bar",
            (false, true) => "metric",
            (false, false) => "us",
        }
    }

    /// What was given for a field of the question.
    fn values(&self, field: &str) -> Vec<String> {
        let optional = |value: &Option<String>| value.iter().cloned().collect();
        match field {
            "units" => vec![self.units().to_owned()],
            "static" => vec![self.static_pressure.clone()],
            "dynamic" => self.dynamic.clone(),
            "meter" => optional(&self.meter),
            "service" => optional(&self.service),
            "backflow" => vec![self.backflow.clone()],
            "valve" => vec![self.valve.clone()],
            "head" => vec![self.head.clone()],
            "arc" => vec![self.arc.to_string()],
            "count" => vec![self.count.to_string()],
            "spacing" => vec![self.spacing.clone()],
            "pipe" => vec![self.pipe.clone()],
            "arrangement" => vec![self.arrangement.clone()],
            "distance" => vec![self.distance.clone()],
            "rise" => vec![self.rise.clone()],
            "regulate" => vec![self.regulate.clone()],
            _ => Vec::new(),
        }
    }
}
