use super::{EmitterFile, FORMAT, LinkFile, NetworkFile, SourceFile};
use crate::error::{MOST_BYTES, ReadError, from_json};
use fenlo_core::network::{Curve, Emission, Emitter, Link, LinkKind, Loss, Network, Node, Source, SourceLaw};
use fenlo_core::plan::Fault;
use fenlo_core::units::{Flow, Length, Pressure};
use std::collections::HashMap;
use std::fmt;

/// Largest size of any figure: a million of any unit is a slip of the hand.
const MOST: f64 = 1e6;

/// Reads a network and checks it whole.
///
/// # Errors
/// Every fault with its path in the file, e.g. `links[3].diameter_mm: must be positive`.
pub fn read_network(bytes: &[u8]) -> Result<Network, ReadError> {
    let file: NetworkFile = from_json(bytes, MOST_BYTES)?;
    let mut reader = Reader { faults: Vec::new(), nodes: HashMap::new() };
    let network = reader.network(&file);
    if reader.faults.is_empty() { Ok(network) } else { Err(ReadError(reader.faults)) }
}

/// A part of a list, by its place there: written out only where it has a fault.
#[derive(Clone, Copy)]
struct At(&'static str, usize);

impl fmt::Display for At {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}[{}]", self.0, self.1)
    }
}

struct Reader<'a> {
    faults: Vec<Fault>,
    nodes: HashMap<&'a str, usize>,
}

impl<'a> Reader<'a> {
    fn fault(&mut self, path: impl fmt::Display, message: impl Into<String>) {
        self.faults.push(Fault { path: path.to_string(), message: message.into() });
    }

    fn positive(&mut self, path: impl fmt::Display, value: f64) -> f64 {
        if !(value > 0.0 && value <= MOST) {
            self.fault(
                path,
                if value > MOST { "is over a million: check the unit" } else { "must be positive" },
            );
            return 1.0;
        }
        value
    }

    fn not_negative(&mut self, path: impl fmt::Display, value: f64) -> f64 {
        if !(0.0..=MOST).contains(&value) {
            self.fault(
                path,
                if value > MOST { "is over a million: check the unit" } else { "must be zero or more" },
            );
            return 0.0;
        }
        value
    }

    fn required(&mut self, path: impl fmt::Display, value: Option<f64>) -> f64 {
        match value {
            Some(value) => self.positive(path, value),
            None => {
                self.fault(path, "is missing");
                1.0
            }
        }
    }

    fn exponent(&mut self, path: impl fmt::Display, value: f64) -> f64 {
        if !(0.1..=4.0).contains(&value) {
            self.fault(path, "must be from 0.1 to 4");
            return 1.0;
        }
        value
    }

    fn node(&mut self, path: impl fmt::Display, id: &str) -> usize {
        match self.nodes.get(id) {
            Some(i) => *i,
            None => {
                self.fault(path, format!("there is no node ‘{id}’"));
                0
            }
        }
    }

    fn network(&mut self, file: &'a NetworkFile<'a>) -> Network {
        if file.format != FORMAT {
            self.fault("format", format!("must be ‘{FORMAT}’"));
        }
        for (i, node) in file.nodes.iter().enumerate() {
            if self.nodes.insert(&node.id, i).is_some() {
                self.fault(format!("nodes[{i}].id"), format!("‘{}’ is used twice", node.id));
            }
            if node.elevation_m.abs() > 10_000.0 {
                self.fault(format!("nodes[{i}].elevation_m"), "must be within 10,000 m");
            }
        }
        if file.sources.is_empty() {
            self.fault("sources", "a network needs a source");
        }
        self.unique("links", file.links.iter().map(|l| l.id.as_ref()));
        self.unique("emitters", file.emitters.iter().map(|e| e.id.as_ref()));
        Network {
            name: file.name.to_string(),
            nodes: file
                .nodes
                .iter()
                .map(|n| Node { id: n.id.to_string(), elevation: Length::from_m(n.elevation_m) })
                .collect(),
            sources: file.sources.iter().enumerate().map(|(i, s)| self.source(At("sources", i), s)).collect(),
            links: file.links.iter().enumerate().map(|(i, l)| self.link(At("links", i), l)).collect(),
            emitters: file
                .emitters
                .iter()
                .enumerate()
                .map(|(i, e)| self.emitter(At("emitters", i), e))
                .collect(),
        }
    }

    fn unique<'b>(&mut self, list: &str, ids: impl Iterator<Item = &'b str>) {
        let mut seen = std::collections::HashSet::new();
        for (i, id) in ids.enumerate() {
            if !seen.insert(id) {
                self.fault(format!("{list}[{i}].id"), format!("‘{id}’ is used twice"));
            }
        }
    }

    fn source(&mut self, at: At, s: &SourceFile) -> Source {
        let node = self.node(format_args!("{at}.node"), &s.node);
        let law = if let Some(points) = &s.curve {
            if s.static_kpa.is_some() || s.drop_kpa.is_some() {
                self.fault(format_args!("{at}.curve"), "replaces static_kpa and drop_kpa");
            }
            let points: Vec<(f64, f64)> = points.iter().map(|p| (p.flow_lpm, p.pressure_kpa)).collect();
            if points.windows(2).any(|w| w[1].1 >= w[0].1) {
                self.fault(format_args!("{at}.curve"), "a source's pressure must fall as its flow rises");
            }
            SourceLaw::Curve(self.curve(format_args!("{at}.curve"), &points))
        } else {
            let drop = self.not_negative(format_args!("{at}.drop_kpa"), s.drop_kpa.unwrap_or(0.0));
            let at_flow =
                if drop > 0.0 { self.required(format_args!("{at}.at_flow_lpm"), s.at_flow_lpm) } else { 1.0 };
            SourceLaw::Measured {
                static_pressure: Pressure::from_kpa(
                    self.required(format_args!("{at}.static_kpa"), s.static_kpa),
                ),
                drop: Pressure::from_kpa(drop),
                at_flow: Flow::from_lpm(at_flow),
                exponent: self.exponent(format_args!("{at}.exponent"), s.exponent.unwrap_or(1.852)),
            }
        };
        Source { node, law }
    }

    fn curve(&mut self, path: impl fmt::Display, points: &[(f64, f64)]) -> Curve {
        Curve::through(points).unwrap_or_else(|e| {
            self.fault(path, e.to_string());
            Curve::through(&[(0.0, 1.0), (1.0, 0.0)]).expect("two points make a curve")
        })
    }

    fn link(&mut self, at: At, l: &LinkFile) -> Link {
        let (from, to) =
            (self.node(format_args!("{at}.from"), &l.from), self.node(format_args!("{at}.to"), &l.to));
        if l.from == l.to {
            self.fault(format_args!("{at}.to"), "must be another node than from");
        }
        let pipe_keys = [
            ("length_m", l.length_m.is_some()),
            ("diameter_mm", l.diameter_mm.is_some()),
            ("roughness_c", l.roughness_c.is_some()),
            ("minor_loss_k", l.minor_loss_k.is_some()),
            ("open", l.open.is_some()),
        ];
        let loss_keys = [
            ("drop_kpa", l.drop_kpa.is_some()),
            ("at_flow_lpm", l.at_flow_lpm.is_some()),
            ("exponent", l.exponent.is_some()),
            ("fixed_drop_kpa", l.fixed_drop_kpa.is_some()),
            ("curve", l.curve.is_some()),
        ];
        let set_key = [("set_kpa", l.set_kpa.is_some())];
        let mut foreign = |keys: &[(&str, bool)]| {
            for (key, _) in keys.iter().filter(|k| k.1) {
                self.faults.push(Fault {
                    path: format!("{at}.{key}"),
                    message: format!("does not belong to a {}", l.kind),
                });
            }
        };
        let kind = match l.kind.as_ref() {
            "pipe" => {
                foreign(&loss_keys);
                foreign(&set_key);
                LinkKind::Pipe {
                    length: Length::from_m(self.required(format_args!("{at}.length_m"), l.length_m)),
                    inside: Length::from_m(
                        self.required(format_args!("{at}.diameter_mm"), l.diameter_mm) / 1000.0,
                    ),
                    roughness_c: self.required(format_args!("{at}.roughness_c"), l.roughness_c),
                    minor_loss_k: self
                        .not_negative(format_args!("{at}.minor_loss_k"), l.minor_loss_k.unwrap_or(0.0)),
                    open: l.open.unwrap_or(true),
                }
            }
            "device" => {
                foreign(&pipe_keys);
                foreign(&set_key);
                LinkKind::Device(self.loss(at, l))
            }
            "regulator" => {
                foreign(&pipe_keys);
                LinkKind::Regulator {
                    set: Pressure::from_kpa(self.required(format_args!("{at}.set_kpa"), l.set_kpa)),
                    loss: self.loss(at, l),
                }
            }
            _ => {
                self.fault(format_args!("{at}.kind"), "must be pipe, device or regulator");
                LinkKind::Device(Loss::Power {
                    fixed: Pressure::ZERO,
                    drop: Pressure::ZERO,
                    at_flow: Flow::from_lpm(1.0),
                    exponent: 2.0,
                })
            }
        };
        Link { id: l.id.to_string(), from, to, kind }
    }

    fn loss(&mut self, at: At, l: &LinkFile) -> Loss {
        if let Some(points) = &l.curve {
            if l.drop_kpa.is_some() || l.at_flow_lpm.is_some() || l.fixed_drop_kpa.is_some() {
                self.fault(format_args!("{at}.curve"), "replaces drop_kpa, at_flow_lpm and fixed_drop_kpa");
            }
            let points: Vec<(f64, f64)> = points.iter().map(|p| (p.flow_lpm, p.drop_kpa)).collect();
            if points.windows(2).any(|w| w[1].1 < w[0].1) {
                self.fault(format_args!("{at}.curve"), "a loss must not fall as the flow rises");
            }
            return Loss::Curve(self.curve(format_args!("{at}.curve"), &points));
        }
        let drop = self.not_negative(format_args!("{at}.drop_kpa"), l.drop_kpa.unwrap_or(0.0));
        let at_flow =
            if drop > 0.0 { self.required(format_args!("{at}.at_flow_lpm"), l.at_flow_lpm) } else { 1.0 };
        Loss::Power {
            fixed: Pressure::from_kpa(
                self.not_negative(format_args!("{at}.fixed_drop_kpa"), l.fixed_drop_kpa.unwrap_or(0.0)),
            ),
            drop: Pressure::from_kpa(drop),
            at_flow: Flow::from_lpm(at_flow),
            exponent: self.exponent(format_args!("{at}.exponent"), l.exponent.unwrap_or(2.0)),
        }
    }

    fn emitter(&mut self, at: At, e: &EmitterFile) -> Emitter {
        let node = self.node(format_args!("{at}.node"), &e.node);
        let flow = Flow::from_lpm(self.positive(format_args!("{at}.flow_lpm"), e.flow_lpm));
        let emission = match e.kind.as_ref() {
            "orifice" => {
                if e.min_kpa.is_some() {
                    self.fault(format_args!("{at}.min_kpa"), "does not belong to an orifice");
                }
                Emission::Orifice {
                    flow,
                    at_pressure: Pressure::from_kpa(
                        self.required(format_args!("{at}.at_pressure_kpa"), e.at_pressure_kpa),
                    ),
                    exponent: self.exponent(format_args!("{at}.exponent"), e.exponent.unwrap_or(0.5)),
                    regulator: e
                        .regulator_kpa
                        .map(|r| Pressure::from_kpa(self.positive(format_args!("{at}.regulator_kpa"), r))),
                }
            }
            "compensating" => {
                for (key, given) in [
                    ("at_pressure_kpa", e.at_pressure_kpa),
                    ("exponent", e.exponent),
                    ("regulator_kpa", e.regulator_kpa),
                ] {
                    if given.is_some() {
                        self.fault(format!("{at}.{key}"), "does not belong to a compensating emitter");
                    }
                }
                Emission::Compensating {
                    flow,
                    min: Pressure::from_kpa(self.required(format_args!("{at}.min_kpa"), e.min_kpa)),
                }
            }
            _ => {
                self.fault(format_args!("{at}.kind"), "must be orifice or compensating");
                Emission::Compensating { flow, min: Pressure::from_kpa(1.0) }
            }
        };
        Emitter { id: e.id.to_string(), node, emission }
    }
}
