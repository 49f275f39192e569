use crate::args::QuickArgs;
use crate::commands::{BadInput, print};
use crate::report;
use anyhow::Result;
use fenlo_core::catalogue::{Catalogue, PipeId};
use fenlo_core::plan::{Arrangement, Fault, HeadGroup, Plan, Regulation, validate};
use fenlo_core::quick::{Question, answer};
use fenlo_core::units::{Flow, Length, QuantityError, UnitSystem};
use fenlo_core::zone::zone_model;
use fenlo_formats::write_network;
use std::str::FromStr;

pub fn run(args: &QuickArgs) -> Result<()> {
    let catalogue = Catalogue::builtin();
    let plan = question(args, catalogue).map_err(|faults| {
        BadInput::from(
            faults
                .iter()
                .map(ToString::to_string)
                .collect::<Vec<_>>()
                .join("\n"),
        )
    })?;
    let answer = answer(&plan, catalogue);
    if let Some(file) = &args.network {
        let model = zone_model(&plan, &plan.valves[0], catalogue).map_err(BadInput::from)?;
        std::fs::write(file, write_network(&model.network))
            .map_err(|e| BadInput::from(format!("{}: {e}", file.display())))?;
    }
    print(&if args.json {
        report::quick_json(&plan, &answer)
    } else {
        report::quick_text(&plan, &answer)
    })
}

/// The plan that the flags describe, or every flag that can't be used.
fn question(args: &QuickArgs, catalogue: &Catalogue) -> Result<Plan, Vec<Fault>> {
    let mut flags = Flags { faults: Vec::new() };
    let static_pressure = flags.read("--static", &args.static_pressure);
    let mut dynamic = Vec::new();
    for pair in &args.dynamic {
        match pair.split_once(':') {
            Some((flow, pressure)) => {
                if let (Some(flow), Some(pressure)) = (
                    flags.read::<Flow>("--dynamic", flow),
                    flags.read("--dynamic", pressure),
                ) {
                    dynamic.push((flow, pressure));
                }
            }
            None => flags.fault("--dynamic", "write flow:pressure, e.g. 10gpm:55psi"),
        }
    }
    let question = Question {
        units: if args.metric {
            UnitSystem::Metric
        } else {
            UnitSystem::Us
        },
        static_pressure: static_pressure.unwrap_or_default(),
        dynamic,
        service: args
            .service
            .as_deref()
            .and_then(|s| flags.pipe_and_length("--service", s)),
        meter: args.meter.as_ref().map(|size| size.replace(' ', "")),
        backflow: (args.backflow != "none").then(|| args.backflow.clone()),
        valve: args.valve.clone(),
        nozzle: args.head.clone(),
        arc: args.arc,
        count: args.count,
        spacing: flags.read("--spacing", &args.spacing).unwrap_or_default(),
        pipe: PipeId::from_str(&args.pipe)
            .map_err(|e| flags.fault("--pipe", e.to_string()))
            .unwrap_or_else(|()| HeadGroup::new("", "", "").pipe),
        arrangement: flags.arrangement(&args.arrangement),
        distance: flags.read("--distance", &args.distance).unwrap_or_default(),
        rise: flags.read("--rise", &args.rise).unwrap_or_default(),
        regulation: flags.regulation(&args.regulate),
    };
    let plan = question.plan(catalogue);
    if flags.faults.is_empty() {
        flags.faults = validate(&plan, catalogue)
            .into_iter()
            .map(|f| Fault {
                path: flag_of(&f.path),
                ..f
            })
            .collect();
    }
    if flags.faults.is_empty() {
        Ok(plan)
    } else {
        Err(flags.faults)
    }
}

/// The flag behind a path of the plan.
fn flag_of(path: &str) -> String {
    let flag = match path {
        p if p.starts_with("supplies[0].readings[0]") => "--static",
        p if p.starts_with("supplies[0].readings") => "--dynamic",
        p if p.ends_with("part.size") => "--meter",
        p if p.ends_with("part.model") => "--backflow",
        p if p.contains("].part.") => "--service",
        p if p.ends_with(".nozzle") => "--head",
        p if p.ends_with(".arc") => "--arc",
        p if p.ends_with(".count") || p.ends_with("lots") || p == "groups" => "--count",
        p if p.ends_with(".spacing") => "--spacing",
        p if p.ends_with(".pipe") => "--pipe",
        p if p.ends_with(".distance") => "--distance",
        p if p.ends_with(".rise") => "--rise",
        p if p.ends_with(".row") => "--head",
        p if p.contains("regulation") => "--regulate",
        p if p.ends_with(".model") => "--valve",
        p => p,
    };
    flag.to_owned()
}

struct Flags {
    faults: Vec<Fault>,
}

impl Flags {
    fn fault(&mut self, flag: &str, message: impl Into<String>) {
        self.faults.push(Fault {
            path: flag.to_owned(),
            message: message.into(),
        });
    }

    fn read<T: FromStr<Err = QuantityError>>(&mut self, flag: &str, text: &str) -> Option<T> {
        text.parse()
            .map_err(|e: QuantityError| self.fault(flag, e.to_string()))
            .ok()
    }

    /// `1in copper-l 55ft`: the length is what stands last.
    fn pipe_and_length(&mut self, flag: &str, text: &str) -> Option<(PipeId, Length)> {
        let words: Vec<&str> = text.split_whitespace().collect();
        for take in [1, 2] {
            let Some(cut) = words.len().checked_sub(take) else {
                break;
            };
            if let (Ok(length), Ok(pipe)) = (words[cut..].join(" ").parse(), words[..cut].join(" ").parse()) {
                return Some((pipe, length));
            }
        }
        self.fault(
            flag,
            format!("‘{text}’: write size, material and length, e.g. 1in copper-l 55ft"),
        );
        None
    }

    fn arrangement(&mut self, text: &str) -> Arrangement {
        match text {
            "chain" => Arrangement::Chain,
            "middle" => Arrangement::Middle,
            "h" => Arrangement::H,
            other => {
                self.fault("--arrangement", format!("‘{other}’ is not chain, middle or h"));
                Arrangement::Chain
            }
        }
    }

    fn regulation(&mut self, text: &str) -> Regulation {
        if text == "none" {
            return Regulation::None;
        }
        let Some((place, set)) = text.split_once(':') else {
            self.fault(
                "--regulate",
                format!("‘{text}’: write none, valve:40psi, inline:30psi or body:30psi"),
            );
            return Regulation::None;
        };
        let Some(set) = self.read("--regulate", set) else {
            return Regulation::None;
        };
        match place {
            "valve" => Regulation::Valve { set },
            "inline" => Regulation::Inline { set },
            "body" => Regulation::Body { set },
            _ => {
                self.fault("--regulate", format!("‘{place}’ is not valve, inline or body"));
                Regulation::None
            }
        }
    }
}
