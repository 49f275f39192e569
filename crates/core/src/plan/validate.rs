//! Every fault of a plan, located, before anything is computed with it.

use super::{ChainPart, Fault, HeadGroup, Plan, ReadingKind, Regulation, Supply, Valve, Water};
use crate::catalogue::{Catalogue, Kind, Nozzle, PipeId, Role, TURNS_DOWN};
use crate::units::{Flow, Length, Pressure};
use std::collections::HashSet;

/// More heads than any one job has; bounds the work of an assessment.
const MOST_HEADS: u32 = 5_000;
const MOST_EMITTERS: u32 = 20_000;
const MOST_ENTRIES: usize = 500;
const MOST_OWN: usize = 300;

/// All faults, in the order of the file. Empty: the plan can be assessed.
pub fn validate(plan: &Plan, catalogue: &Catalogue) -> Vec<Fault> {
    let catalogue = plan.with_own(catalogue);
    let mut check = Check {
        faults: Vec::new(),
        catalogue,
    };
    check.nozzles(plan);
    check.plan(plan);
    check.faults
}

struct Check<'a> {
    faults: Vec<Fault>,
    catalogue: &'a Catalogue,
}

impl Check<'_> {
    /// Nozzles of the house: few, named apart, with charts that make sense.
    fn nozzles(&mut self, plan: &Plan) {
        if plan.nozzles.len() > MOST_OWN {
            return self.fault(
                "nozzles",
                format!(
                    "has {} entries; at most {MOST_OWN} in one job",
                    plan.nozzles.len()
                ),
            );
        }
        if plan.favourites.len() > MOST_OWN {
            return self.fault(
                "favourites",
                format!("has {} entries; at most {MOST_OWN}", plan.favourites.len()),
            );
        }
        let mut seen = HashSet::new();
        for (i, n) in plan.nozzles.iter().enumerate() {
            let at = format!("nozzles[{i}]");
            if n.id.is_empty()
                || n.id.len() > 64
                || Catalogue::builtin().nozzle(&n.id).is_some()
                || !seen.insert(&n.id)
            {
                self.fault(format!("{at}.id"), format!("‘{}’ is no name of its own", n.id));
            }
            if n.label.trim().is_empty() {
                self.fault(format!("{at}.label"), "needs a name");
            }
            self.text(&format!("{at}.label"), &n.label, 80);
            if matches!(
                n.kind,
                Kind::Dripline | Kind::Emitter | Kind::Tape | Kind::Bubbler
            ) {
                self.fault(format!("{at}.kind"), "only heads that throw have a chart");
            }
            if !(1..=200).contains(&n.chart.len()) {
                self.fault(format!("{at}.chart"), "has 1 to 200 rows");
            }
            for (j, row) in n.chart.iter().enumerate() {
                let at = format!("{at}.chart[{j}]");
                self.pressure(format!("{at}.pressure"), row.pressure);
                self.flow(format!("{at}.flow"), row.flow);
                self.length(format!("{at}.radius"), row.radius, 200.0, false);
                if !(20..=360).contains(&row.arc) {
                    self.fault(format!("{at}.arc"), "must be from 20 to 360 degrees");
                }
            }
            // A nozzle gives more where more presses on it.
            let fit = Catalogue::builtin()
                .kinds
                .iter()
                .find(|k| k.kind == n.kind)
                .and_then(|k| n.fit(k));
            if let Some(fit) = fit.filter(|f| !(0.0..=1.5).contains(&f.exponent) || !f.flow.lpm().is_finite())
            {
                self.fault(
                    format!("{at}.chart"),
                    format!(
                        "flow goes with the pressure to the power {:.2}: \
                    a nozzle lies between 0 and 1.5, about 0.5",
                        fit.exponent
                    ),
                );
            }
            if n.price
                .is_some_and(|p| p.is_sign_negative() || p > 1_000_000.into())
            {
                self.fault(format!("{at}.price"), "must be from 0 to 1000000");
            }
        }
    }

    fn fault(&mut self, path: impl Into<String>, message: impl Into<String>) {
        self.faults.push(Fault {
            path: path.into(),
            message: message.into(),
        });
    }

    fn text(&mut self, path: &str, text: &str, most: usize) {
        if text.chars().count() > most {
            self.fault(path, format!("must be at most {most} characters"));
        }
    }

    fn length(&mut self, path: String, length: Length, most_ft: f64, zero: bool) {
        if length.m() < 0.0 || (!zero && length.m() == 0.0) {
            let least = if zero { "zero or more" } else { "more than zero" };
            self.fault(path, format!("must be {least}"));
        } else if length.ft() > most_ft {
            self.fault(
                path,
                format!(
                    "is over {most_ft} ft ({:.0} m): check the figure and its unit",
                    Length::from_ft(most_ft).m()
                ),
            );
        }
    }

    fn rise(&mut self, path: String, rise: Length) {
        if rise.ft().abs() > 500.0 {
            self.fault(path, "is over 500 ft (152 m): check the figure and its unit");
        }
    }

    fn pressure(&mut self, path: String, pressure: Pressure) {
        if pressure.kpa() <= 0.0 {
            self.fault(path, "must be more than zero");
        } else if pressure.psi() > 300.0 {
            self.fault(path, "is over 300 psi (20.7 bar): check the figure and its unit");
        }
    }

    fn flow(&mut self, path: String, flow: Flow) {
        if flow.lpm() <= 0.0 {
            self.fault(path, "must be more than zero");
        } else if flow.gpm() > 5_000.0 {
            self.fault(
                path,
                "is over 5000 gpm (18 900 L/min): check the figure and its unit",
            );
        }
    }

    fn pipe(&mut self, path: String, pipe: &PipeId) {
        if self.catalogue.pipe(pipe).is_none() {
            let sizes: Vec<&str> = self
                .catalogue
                .pipes
                .iter()
                .filter(|p| p.material == pipe.material)
                .map(|p| p.size.as_str())
                .collect();
            let known = if sizes.is_empty() {
                let mut materials: Vec<&str> =
                    self.catalogue.pipes.iter().map(|p| p.material.as_str()).collect();
                materials.dedup();
                format!("materials are {}", materials.join(", "))
            } else {
                format!("sizes of {} are {}", pipe.material, sizes.join(", "))
            };
            self.fault(path, format!("‘{pipe}’ is not in the catalogue: {known}"));
        }
    }

    fn share(&mut self, path: &str, value: f64, most: f64) {
        if !(0.0..=most).contains(&value) {
            self.fault(path, format!("must be from 0 to {most}"));
        }
    }

    fn plan(&mut self, plan: &Plan) {
        if plan.format != super::FORMAT {
            self.fault("format", format!("must be ‘{}’", super::FORMAT));
        }
        if plan.name.trim().is_empty() {
            self.fault("name", "a job needs a name");
        }
        self.text("name", &plan.name, 200);
        self.text("place", &plan.place, 500);
        self.text("local_code", &plan.local_code, 5_000);
        let rules = &plan.rules;
        self.share("rules.flow_margin", rules.flow_margin, 0.9);
        self.share("rules.meter_loss_share", rules.meter_loss_share, 1.0);
        self.share("rules.meter_flow_share", rules.meter_flow_share, 1.0);
        self.share("rules.spread", rules.spread, 1.0);
        self.share("rules.fittings", rules.fittings, 1.0);
        for (name, speed) in [
            ("service_metal", rules.service_metal),
            ("service_plastic", rules.service_plastic),
            ("velocity_watch", rules.velocity_watch),
            ("velocity_stop", rules.velocity_stop),
        ] {
            if !(0.1..=50.0).contains(&speed.fps()) {
                self.fault(format!("rules.{name}"), "must be from 0.1 to 50 ft/s");
            }
        }
        self.pressure("rules.regulator_room".into(), rules.regulator_room);
        self.pressure("rules.rule_of_thumb".into(), rules.rule_of_thumb);
        self.pressure("rules.drip_rating".into(), rules.drip_rating);
        if !(0.0..=0.3).contains(&rules.peak_et.m()) {
            self.fault("rules.peak_et", "must be from 0 to 12 in (300 mm) a week");
        }
        if !(0.0..=53.0).contains(&rules.peak_weeks) {
            self.fault("rules.peak_weeks", "must be from 0 to 53 weeks");
        }
        for (list, n) in [
            ("supplies", plan.supplies.len()),
            ("groups", plan.groups.len()),
            ("valves", plan.valves.len()),
        ] {
            if n > MOST_ENTRIES {
                self.fault(
                    list,
                    format!("has {n} entries; at most {MOST_ENTRIES} in one job"),
                );
                return;
            }
        }
        crate::site::check(&plan.site, &mut self.faults);
        let mut seen = HashSet::new();
        let ids = plan
            .supplies
            .iter()
            .enumerate()
            .map(|(i, s)| (format!("supplies[{i}].id"), &s.id))
            .chain(
                plan.groups
                    .iter()
                    .enumerate()
                    .map(|(i, g)| (format!("groups[{i}].id"), &g.id)),
            )
            .chain(plan.groups.iter().enumerate().flat_map(|(i, g)| {
                g.drawn
                    .iter()
                    .enumerate()
                    .map(move |(k, h)| (format!("groups[{i}].drawn[{k}].id"), &h.id))
            }))
            .chain(
                plan.site
                    .things
                    .iter()
                    .enumerate()
                    .map(|(i, t)| (format!("site.things[{i}].id"), &t.id)),
            )
            .chain(
                plan.valves
                    .iter()
                    .enumerate()
                    .map(|(i, v)| (format!("valves[{i}].id"), &v.id)),
            );
        for (path, id) in ids {
            self.id(path, id, &mut seen);
        }
        for (i, supply) in plan.supplies.iter().enumerate() {
            self.supply(&format!("supplies[{i}]"), supply, &mut seen);
        }
        let (mut heads, mut emitters) = (0u32, 0u32);
        for (i, group) in plan.groups.iter().enumerate() {
            self.group(&format!("groups[{i}]"), group, plan);
            let here = group
                .lots
                .iter()
                .fold(group.drawn.len() as u32, |n, l| n.saturating_add(l.count));
            heads = heads.saturating_add(here);
            let each = group.row.map_or(1, |r| r.emitters);
            emitters = emitters.saturating_add(here.saturating_mul(each));
        }
        if heads > MOST_HEADS || emitters > MOST_EMITTERS {
            self.fault(
                "groups",
                format!(
                    "hold {heads} heads or rows and {emitters} emitters; at most \
                {MOST_HEADS} and {MOST_EMITTERS} in one job"
                ),
            );
        }
        for (i, valve) in plan.valves.iter().enumerate() {
            self.valve(&format!("valves[{i}]"), valve, plan);
        }
    }

    fn id(&mut self, path: String, id: &str, seen: &mut HashSet<String>) {
        let good = !id.is_empty()
            && id.len() <= 40
            && id
                .chars()
                .all(|c| c.is_ascii_alphanumeric() || c == '-' || c == '_');
        if !good {
            self.fault(path, "must be 1 to 40 letters, digits, - or _");
        } else if !seen.insert(id.to_owned()) {
            self.fault(path, format!("‘{id}’ is used twice"));
        }
    }

    fn supply(&mut self, at: &str, supply: &Supply, seen: &mut HashSet<String>) {
        self.text(&format!("{at}.name"), &supply.name, 100);
        self.rise(format!("{at}.gauge_height"), supply.gauge_height);
        match &supply.water {
            Water::Street => {}
            Water::Pump { curve, .. } => {
                if !(3..=50).contains(&curve.len()) {
                    self.fault(
                        format!("{at}.water.curve"),
                        "a pump needs 3 to 50 points of its curve",
                    );
                }
                for (i, pair) in curve.windows(2).enumerate() {
                    if pair[1].flow <= pair[0].flow {
                        self.fault(
                            format!("{at}.water.curve[{}].flow", i + 1),
                            "flows must rise from point to point",
                        );
                    }
                    if pair[1].pressure >= pair[0].pressure {
                        self.fault(
                            format!("{at}.water.curve[{}].pressure", i + 1),
                            "a pump's pressure falls as its flow rises",
                        );
                    }
                }
                for (i, p) in curve.iter().enumerate() {
                    if p.flow.lpm() < 0.0 {
                        self.fault(format!("{at}.water.curve[{i}].flow"), "must be zero or more");
                    }
                    if p.pressure.kpa() < 0.0 || p.pressure.psi() > 300.0 {
                        self.fault(
                            format!("{at}.water.curve[{i}].pressure"),
                            "must be from 0 to 300 psi (20.7 bar)",
                        );
                    }
                }
            }
            Water::Well {
                cut_in,
                cut_out,
                pump_flow,
            } => {
                self.pressure(format!("{at}.water.cut_in"), *cut_in);
                self.pressure(format!("{at}.water.cut_out"), *cut_out);
                self.flow(format!("{at}.water.pump_flow"), *pump_flow);
                if cut_out <= cut_in {
                    self.fault(format!("{at}.water.cut_out"), "must be above the cut-in pressure");
                }
            }
        }
        if supply.readings.len() > MOST_ENTRIES {
            self.fault(
                format!("{at}.readings"),
                format!("at most {MOST_ENTRIES} readings"),
            );
        }
        for (i, reading) in supply.readings.iter().enumerate() {
            let here = format!("{at}.readings[{i}]");
            match &reading.kind {
                ReadingKind::Static { pressure } => {
                    self.pressure(format!("{here}.measured.pressure"), *pressure)
                }
                ReadingKind::Dynamic { flow, pressure } => {
                    self.flow(format!("{here}.measured.flow"), *flow);
                    self.pressure(format!("{here}.measured.pressure"), *pressure);
                }
                ReadingKind::Bucket { volume, time } => {
                    if !(volume.litres() > 0.0 && volume.litres() < 10_000.0) {
                        self.fault(
                            format!("{here}.measured.volume"),
                            "must be more than zero and under 10 000 L",
                        );
                    }
                    if !(time.minutes() > 0.0 && time.minutes() < 600.0) {
                        self.fault(
                            format!("{here}.measured.time"),
                            "must be more than zero and under 10 h",
                        );
                    }
                }
            }
            for (name, text) in [
                ("when", &reading.when),
                ("instrument", &reading.instrument),
                ("place", &reading.place),
            ] {
                self.text(&format!("{here}.{name}"), text, 100);
            }
        }
        if supply.chain.len() > 50 {
            self.fault(format!("{at}.chain"), "at most 50 parts");
        }
        for (i, item) in supply.chain.iter().enumerate() {
            let here = format!("{at}.chain[{i}]");
            self.id(format!("{here}.id"), &item.id, seen);
            match &item.part {
                ChainPart::Pipe { pipe, length, rise } => {
                    self.pipe(format!("{here}.part.pipe"), pipe);
                    self.length(format!("{here}.part.length"), *length, 10_000.0, false);
                    self.rise(format!("{here}.part.rise"), *rise);
                }
                ChainPart::Meter { size } if self.catalogue.meter(size).is_none() => {
                    let sizes: Vec<&str> = self.catalogue.meters.iter().map(|m| m.size.as_str()).collect();
                    self.fault(
                        format!("{here}.part.size"),
                        format!("‘{size}’ is not a meter size: {}", sizes.join(", ")),
                    );
                }
                ChainPart::Device { model } => match self.catalogue.device(model).map(|d| d.role) {
                    Some(Role::Backflow | Role::Isolation | Role::Filter) => {}
                    _ => self.unknown_device(
                        format!("{here}.part.model"),
                        model,
                        &[Role::Backflow, Role::Isolation, Role::Filter],
                    ),
                },
                ChainPart::Regulator { set } => self.pressure(format!("{here}.part.set"), *set),
                ChainPart::Meter { .. } => {}
            }
        }
        if let Some(after) = &supply.read_after
            && !supply.chain.iter().any(|c| c.id == *after)
        {
            self.fault(
                format!("{at}.read_after"),
                format!("‘{after}’ is not a part of the chain"),
            );
        }
    }

    fn unknown_device(&mut self, path: String, model: &str, roles: &[Role]) {
        let known: Vec<&str> = self
            .catalogue
            .devices
            .iter()
            .filter(|d| roles.contains(&d.role))
            .map(|d| d.id.as_str())
            .collect();
        self.fault(path, format!("‘{model}’ is not one of {}", known.join(", ")));
    }

    fn group(&mut self, at: &str, group: &HeadGroup, plan: &Plan) {
        if group.name.trim().is_empty() {
            self.fault(format!("{at}.name"), "name the area");
        }
        self.text(&format!("{at}.name"), &group.name, 100);
        if !(0.0..=100.0).contains(&group.slope_percent) {
            self.fault(format!("{at}.slope_percent"), "must be from 0 to 100 percent");
        }
        self.length(format!("{at}.spacing"), group.spacing, 200.0, false);
        if let Some(rows) = group.row_spacing {
            self.length(format!("{at}.row_spacing"), rows, 200.0, false);
        }
        self.length(format!("{at}.distance"), group.distance, 5_000.0, true);
        self.rise(format!("{at}.rise"), group.rise);
        self.pipe(format!("{at}.pipe"), &group.pipe);
        if let Some(pipe) = &group.feed_pipe {
            self.pipe(format!("{at}.feed_pipe"), pipe);
        }
        let nozzle = self.catalogue.nozzle(&group.nozzle);
        if nozzle.is_none() {
            self.fault(
                format!("{at}.nozzle"),
                format!(
                    "‘{}’ is not in the catalogue of nozzles, e.g. \
                spray-12, rotator-20, rotor-3, dripline-0.6",
                    group.nozzle
                ),
            );
        }
        if group.is_drawn() {
            self.drawn(at, group, plan);
        } else if group.lots.is_empty() || group.count() == 0 {
            self.fault(format!("{at}.lots"), "say how many heads: one or more");
        }
        if group.lots.len() > MOST_ENTRIES {
            self.fault(format!("{at}.lots"), format!("at most {MOST_ENTRIES} entries"));
        }
        for (i, lot) in group.lots.iter().enumerate() {
            if lot.count == 0 || lot.count > MOST_HEADS {
                self.fault(
                    format!("{at}.lots[{i}].count"),
                    format!("must be from 1 to {MOST_HEADS}"),
                );
            }
            self.arc(format!("{at}.lots[{i}].arc"), lot.arc, nozzle);
            if let Some(valve) = &lot.valve
                && plan.valve(valve).is_none()
            {
                self.fault(
                    format!("{at}.lots[{i}].valve"),
                    format!("there is no valve ‘{valve}’"),
                );
            }
        }
        let rows = matches!(
            nozzle.map(|n| n.kind),
            Some(crate::catalogue::Kind::Dripline | crate::catalogue::Kind::Tape)
        );
        match group.row {
            None if rows => self.fault(
                format!("{at}.row"),
                "dripline and tape need the emitters on a row and their spacing",
            ),
            Some(_) if !rows && nozzle.is_some() => {
                self.fault(format!("{at}.row"), "only dripline and tape have rows")
            }
            Some(row) => {
                if row.emitters == 0 || row.emitters > 2_000 {
                    self.fault(format!("{at}.row.emitters"), "must be from 1 to 2000");
                }
                self.length(
                    format!("{at}.row.emitter_spacing"),
                    row.emitter_spacing,
                    20.0,
                    false,
                );
            }
            None => {}
        }
    }

    fn arc(&mut self, path: String, arc: u16, nozzle: Option<&Nozzle>) {
        if let Some(nozzle) = nozzle
            && !(nozzle.arcs.0..=nozzle.arcs.1).contains(&arc)
        {
            let (low, high) = nozzle.arcs;
            let wanted = if low == high {
                format!("{low}°")
            } else {
                format!("{low}° to {high}°")
            };
            self.fault(path, format!("{arc}° can't be set on {}: {wanted}", nozzle.label));
        }
    }

    fn drawn(&mut self, at: &str, group: &HeadGroup, plan: &Plan) {
        if !group.lots.is_empty() {
            self.fault(
                format!("{at}.lots"),
                "a group has listed heads or drawn ones, not both",
            );
        }
        let nozzle = self.catalogue.nozzle(&group.nozzle);
        if nozzle.is_some_and(|n| n.radius.is_none()) {
            self.fault(
                format!("{at}.nozzle"),
                "heads on the board need a nozzle that throws: drip rows are listed",
            );
        }
        for (i, head) in group.drawn.iter().enumerate() {
            let here = format!("{at}.drawn[{i}]");
            if !head.at.is_sound() {
                self.fault(format!("{here}.at"), "lies outside the sheet");
            }
            if !(0.0..=360.0).contains(&head.facing) {
                self.fault(format!("{here}.facing"), "must be from 0 to 360 degrees");
            }
            self.arc(format!("{here}.arc"), head.arc, nozzle);
            if let (Some(radius), Some(full)) = (head.radius, nozzle.and_then(|n| n.radius)) {
                let least = full * (1.0 - TURNS_DOWN);
                if radius.m() < least.m() - 1e-6 || radius.m() > full.m() + 1e-6 {
                    let u = plan.units;
                    self.fault(
                        format!("{here}.radius"),
                        format!("can be turned down from {} to {}", full.show(u), least.show(u)),
                    );
                }
            }
            if let Some(valve) = &head.valve
                && plan.valve(valve).is_none()
            {
                self.fault(format!("{here}.valve"), format!("there is no valve ‘{valve}’"));
            }
        }
    }

    fn valve(&mut self, at: &str, valve: &Valve, plan: &Plan) {
        self.text(&format!("{at}.name"), &valve.name, 100);
        if plan.supply(&valve.supply).is_none() {
            self.fault(
                format!("{at}.supply"),
                format!("there is no point of connection ‘{}’", valve.supply),
            );
        }
        if self.catalogue.device(&valve.model).map(|d| d.role) != Some(Role::Valve) {
            self.unknown_device(format!("{at}.model"), &valve.model, &[Role::Valve]);
        }
        if let Some(filter) = &valve.filter
            && self.catalogue.device(filter).map(|d| d.role) != Some(Role::Filter)
        {
            self.unknown_device(format!("{at}.filter"), filter, &[Role::Filter]);
        }
        if let Some(main) = &valve.mainline {
            self.pipe(format!("{at}.mainline.pipe"), &main.pipe);
            self.length(format!("{at}.mainline.length"), main.length, 10_000.0, false);
            self.rise(format!("{at}.mainline.rise"), main.rise);
        }
        if let Some(set) = valve.regulation.set() {
            self.pressure(format!("{at}.regulation.set"), set);
            let model = match valve.regulation {
                Regulation::Valve { .. } => "valve-module",
                Regulation::Inline { .. } => "inline-medium",
                _ => return,
            };
            if let Some(model) = self.catalogue.regulator(model) {
                if let Some((low, high)) = model.range
                    && !(low..=high).contains(&set)
                {
                    self.fault(
                        format!("{at}.regulation.set"),
                        format!(
                            "the module can be set from {:.0} to {:.0} psi",
                            low.psi(),
                            high.psi()
                        ),
                    );
                }
                if model.range.is_none() && !model.presets.iter().any(|p| (p.psi() - set.psi()).abs() < 0.5) {
                    let made: Vec<String> = model.presets.iter().map(|p| format!("{:.0}", p.psi())).collect();
                    self.fault(
                        format!("{at}.regulation.set"),
                        format!("in-line regulators are made for {} psi", made.join(", ")),
                    );
                }
            }
        }
    }
}
