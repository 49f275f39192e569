use crate::args::QuickArgs;
use crate::commands::{BadInput, print};
use crate::report;
use anyhow::Result;
use fenlo_core::catalogue::{Catalogue, PipeId};
use fenlo_core::plan::{Arrangement, ChainItem, ChainPart, Fault, HeadGroup, Lot, Plan, Plants, Reading, ReadingKind, Regulation, Valve, validate};
use fenlo_core::quick::answer;
use fenlo_core::units::{Flow, Length, Pressure, QuantityError, UnitSystem};
use fenlo_core::zone::zone_model;
use fenlo_formats::write_network;
use std::str::FromStr;

pub fn run(args: &QuickArgs) -> Result<()> {
    let catalogue = Catalogue::builtin();
    let plan = question(args, catalogue).map_err(|faults| BadInput::from(faults.iter().map(ToString::to_string).collect::<Vec<_>>().join("\n")))?;
    let answer = answer(&plan, catalogue);
    if let Some(file) = &args.network {
        let model = zone_model(&plan, &plan.valves[0], catalogue).map_err(BadInput::from)?;
        std::fs::write(file, write_network(&model.network)).map_err(|e| BadInput::from(format!("{}: {e}", file.display())))?;
    }
    print(&if args.json { report::quick_json(&plan, &answer) } else { report::quick_text(&plan, &answer) })
}

/// The plan that the flags describe, or every flag that can't be used.
fn question(args: &QuickArgs, catalogue: &Catalogue) -> Result<Plan, Vec<Fault>> {
    let mut flags = Flags { faults: Vec::new() };
    let units = if args.metric { UnitSystem::Metric } else { UnitSystem::Us };
    let mut plan = Plan::new("Quick check", units);
    let static_pressure = flags.read::<Pressure>("--static", &args.static_pressure);
    let supply = &mut plan.supplies[0];
    let reading = |kind| Reading { kind, when: String::new(), instrument: String::new(), place: String::new() };
    supply.readings.push(reading(ReadingKind::Static { pressure: static_pressure.unwrap_or_default() }));
    for pair in &args.dynamic {
        match pair.split_once(':') {
            Some((flow, pressure)) => {
                if let (Some(flow), Some(pressure)) = (flags.read::<Flow>("--dynamic", flow), flags.read("--dynamic", pressure)) {
                    supply.readings.push(reading(ReadingKind::Dynamic { flow, pressure }));
                }
            }
            None => flags.fault("--dynamic", "write flow:pressure, e.g. 10gpm:55psi"),
        }
    }
    let mut add = |part| supply.chain.push(ChainItem { id: format!("c{}", supply.chain.len() + 1), part });
    if let Some((pipe, length)) = args.service.as_deref().and_then(|s| flags.pipe_and_length("--service", s)) {
        add(ChainPart::Pipe { pipe, length, rise: Length::ZERO });
    }
    if let Some(size) = &args.meter {
        add(ChainPart::Meter { size: size.replace(' ', "") });
    }
    if args.backflow != "none" {
        add(ChainPart::Device { model: args.backflow.clone() });
    }
    let regulation = flags.regulation(&args.regulate);
    plan.valves.push(Valve { id: "v1".into(), name: "Valve".into(), supply: "s1".into(), model: args.valve.clone(), mainline: None, filter: None, regulation, locked: false });
    let arrangement = match args.arrangement.as_str() {
        "chain" => Arrangement::Chain,
        "middle" => Arrangement::Middle,
        "h" => Arrangement::H,
        other => {
            flags.fault("--arrangement", format!("‘{other}’ is not chain, middle or h"));
            Arrangement::Chain
        }
    };
    let spacing = flags.read("--spacing", &args.spacing);
    let distance = flags.read("--distance", &args.distance);
    let rise = flags.read("--rise", &args.rise);
    match PipeId::from_str(&args.pipe) {
        Ok(pipe) => plan.groups.push(HeadGroup {
            id: "g1".into(),
            name: "Heads".into(),
            plants: Plants::Lawn,
            exposure: Default::default(),
            soil: Default::default(),
            slope_percent: 0.0,
            nozzle: args.head.clone(),
            lots: vec![Lot { arc: args.arc, count: args.count, valve: Some("v1".into()) }],
            arrangement,
            spacing: spacing.unwrap_or_default(),
            row_spacing: None,
            pipe,
            feed_pipe: None,
            distance: distance.unwrap_or_default(),
            rise: rise.unwrap_or_default(),
            row: None,
        }),
        Err(e) => flags.fault("--pipe", e.to_string()),
    }
    if flags.faults.is_empty() {
        flags.faults = validate(&plan, catalogue).into_iter().map(|f| Fault { path: flag_of(&f.path), ..f }).collect();
    }
    if flags.faults.is_empty() { Ok(plan) } else { Err(flags.faults) }
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
        self.faults.push(Fault { path: flag.to_owned(), message: message.into() });
    }

    fn read<T: FromStr<Err = QuantityError>>(&mut self, flag: &str, text: &str) -> Option<T> {
        text.parse().map_err(|e: QuantityError| self.fault(flag, e.to_string())).ok()
    }

    /// `1in copper-l 55ft`: the length is what stands last.
    fn pipe_and_length(&mut self, flag: &str, text: &str) -> Option<(PipeId, Length)> {
        let words: Vec<&str> = text.split_whitespace().collect();
        for take in [1, 2] {
            let Some(cut) = words.len().checked_sub(take) else { break };
            if let (Ok(length), Ok(pipe)) = (words[cut..].join(" ").parse(), words[..cut].join(" ").parse()) {
                return Some((pipe, length));
            }
        }
        self.fault(flag, format!("‘{text}’: write size, material and length, e.g. 1in copper-l 55ft"));
        None
    }

    fn regulation(&mut self, text: &str) -> Regulation {
        if text == "none" {
            return Regulation::None;
        }
        let Some((place, set)) = text.split_once(':') else {
            self.fault("--regulate", format!("‘{text}’: write none, valve:40psi, inline:30psi or body:30psi"));
            return Regulation::None;
        };
        let Some(set) = self.read("--regulate", set) else { return Regulation::None };
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
