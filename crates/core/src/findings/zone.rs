use super::remedy::Cures;
use super::{Finding, Severity};
use crate::catalogue::{Catalogue, Kind};
use crate::plan::{DripSchool, HeadGroup, Plan, Regulation, Valve, Water};
use crate::regulation::OVER_NOMINAL;
use crate::units::{Flow, Pressure};
use crate::working::Working;
use crate::zone::ZoneAssessment;
use crate::zoning::{Weight, reasons_apart};

/// Everything to be said of a zone, the worst first.
pub(crate) fn zone_findings(
    plan: &Plan,
    valve: &Valve,
    zone: &ZoneAssessment,
    design: Option<Flow>,
    catalogue: &Catalogue,
) -> Vec<Finding> {
    let check = Check {
        plan,
        valve,
        zone,
        catalogue,
        cures: Cures {
            plan,
            valve,
            zone,
            catalogue,
        },
    };
    let mut all: Vec<Finding> = [
        check.starved(),
        check.too_high(),
        check.over_design_flow(design),
        check.spread(),
        check.velocity(),
        check.no_room(),
        check.outside_band(),
        check.below_valve_minimum(),
        check.drip_filter(),
        check.drip_regulator(),
        check.drip_rating(),
    ]
    .into_iter()
    .flatten()
    .chain(check.mixed())
    .collect();
    all.sort_by_key(|f| f.severity);
    all
}

struct Check<'a> {
    plan: &'a Plan,
    valve: &'a Valve,
    zone: &'a ZoneAssessment,
    catalogue: &'a Catalogue,
    cures: Cures<'a>,
}

impl Check<'_> {
    fn psi(&self, p: Pressure) -> String {
        p.show(self.plan.units)
    }

    fn drip(&self) -> bool {
        self.groups()
            .any(|g| self.catalogue.nozzle(&g.nozzle).is_some_and(|n| n.kind.is_drip()))
    }

    fn groups(&self) -> impl Iterator<Item = &HeadGroup> {
        self.plan.groups.iter().filter(|g| g.is_on(&self.valve.id))
    }

    fn starved(&self) -> Option<Finding> {
        let low = self.zone.lowest();
        let (nominal, least, _) = low.band;
        if low.nozzle >= least {
            return None;
        }
        let walk_cost = self.zone.lateral_inlet - low.inlet;
        Some(Finding {
            code: "head-starved",
            severity: Severity::Stop,
            title: "Last head starves".into(),
            text: format!(
                "{} arrive, {} are best, {} the least. From the valve to that head {} are lost.",
                self.psi(low.nozzle),
                nominal.show_round(self.plan.units),
                least.show_round(self.plan.units),
                self.psi(walk_cost)
            ),
            working: Working::new(
                "pressure at the head against the least of its kind",
                "physics (network solved); typical of the class for the band",
            )
            .with("arrives at the nozzle", self.psi(low.nozzle))
            .with("least usable", self.psi(least))
            .with("best", self.psi(nominal))
            .with("before the lateral", self.psi(self.zone.lateral_inlet))
            .gives(format!("{} short", self.psi(least - low.nozzle))),
            remedies: self.more_pressure(),
        })
    }

    fn more_pressure(&self) -> Vec<super::Remedy> {
        let c = &self.cures;
        let robbed = (self.valve.regulation != Regulation::None
            && self
                .zone
                .regulator
                .as_ref()
                .is_some_and(|r| r.room < self.plan.rules.regulator_room))
        .then(|| c.fit(Regulation::None))
        .flatten();
        [c.feed_in_middle(), c.larger_pipe(), c.split_in_two(), robbed]
            .into_iter()
            .flatten()
            .collect()
    }

    fn too_high(&self) -> Option<Finding> {
        let high = self.zone.highest();
        let (nominal, _, most) = high.band;
        if self.drip() || high.nozzle <= nominal * (1.0 + OVER_NOMINAL) {
            return None;
        }
        let over = high.nozzle / nominal - 1.0;
        let more = self.zone.flow / self.zone.nominal_flow - 1.0;
        let bubbler = self.groups().any(|g| {
            self.catalogue
                .nozzle(&g.nozzle)
                .is_some_and(|n| n.kind == Kind::Bubbler)
        });
        let what = if bubbler { "basins overflow" } else { "fog, drift" };
        Some(Finding {
            code: "pressure-high",
            severity: if high.nozzle > most {
                Severity::Fix
            } else {
                Severity::Watch
            },
            title: "Pressure too high".into(),
            text: format!(
                "{} at the first head where {} are best ({over:+.0} %): {what} and {more:+.0} % water.",
                self.psi(high.nozzle),
                nominal.show_round(self.plan.units),
                what = what,
                over = over * 100.0,
                more = more * 100.0
            ),
            working: Working::new(
                "over = p / nominal − 1; water follows √(p / nominal)",
                "orifice flow; 15 % allowed over nominal, usual practice",
            )
            .with("highest nozzle", self.psi(high.nozzle))
            .with("nominal", self.psi(nominal))
            .with(
                "zone takes / would take",
                format!(
                    "{} / {}",
                    self.zone.flow.show(self.plan.units),
                    self.zone.nominal_flow.show(self.plan.units)
                ),
            )
            .gives(format!(
                "{:+.0} % pressure, {:+.0} % water",
                over * 100.0,
                more * 100.0
            )),
            remedies: self.cures.regulate().into_iter().collect(),
        })
    }

    fn over_design_flow(&self, design: Option<Flow>) -> Option<Finding> {
        let design = design?;
        if self.zone.flow <= design * 1.000_001 {
            return None;
        }
        let units = self.plan.units;
        Some(Finding {
            code: "flow-over-design",
            severity: Severity::Fix,
            title: "More than the design flow".into(),
            text: format!(
                "The heads take {}; the supply is designed for {}.",
                self.zone.flow.show(units),
                design.show(units)
            ),
            working: Working::new(
                "Σ of head flows at the pressure they get ≤ design flow",
                "see Water for the design flow; margin is a house rule",
            )
            .with("heads", self.zone.heads.len().to_string())
            .with("Σ", self.zone.flow.show(units))
            .with("design flow", design.show(units))
            .gives(format!("{} too much", (self.zone.flow - design).show(units))),
            remedies: [
                self.cures.split_in_two(),
                self.zone
                    .flow
                    .gt(&self.zone.nominal_flow)
                    .then(|| self.cures.regulate())
                    .flatten(),
            ]
            .into_iter()
            .flatten()
            .collect(),
        })
    }

    fn spread(&self) -> Option<Finding> {
        let limit = self.plan.rules.spread;
        if self.drip() || self.zone.spread <= limit || self.zone.lowest().nozzle < self.zone.lowest().band.1 {
            return None;
        }
        let (low, high) = (self.zone.lowest(), self.zone.highest());
        Some(Finding {
            code: "spread",
            severity: Severity::Watch,
            title: "Uneven pressure".into(),
            text: format!(
                "{} to {}: {:.0} % of nominal apart, {:.0} % wanted at most.",
                self.psi(low.nozzle),
                self.psi(high.nozzle),
                self.zone.spread * 100.0,
                limit * 100.0
            ),
            working: Working::new(
                "spread = (highest − lowest) / nominal",
                "house rule: 20 % of pressure is about 10 % of flow",
            )
            .with("highest", self.psi(high.nozzle))
            .with("lowest", self.psi(low.nozzle))
            .with("nominal", self.psi(low.band.0))
            .gives(format!("{:.0} %", self.zone.spread * 100.0)),
            remedies: [self.cures.feed_in_middle(), self.cures.larger_pipe()]
                .into_iter()
                .flatten()
                .collect(),
        })
    }

    fn velocity(&self) -> Option<Finding> {
        let (watch, stop) = (self.plan.rules.velocity_watch, self.plan.rules.velocity_stop);
        let v = self.zone.velocity;
        if v <= watch {
            return None;
        }
        let units = self.plan.units;
        let place = if self.zone.fastest_first_leg {
            "in the first leg"
        } else {
            "in the piping to the heads"
        };
        Some(Finding {
            code: "velocity",
            severity: if v > stop { Severity::Stop } else { Severity::Watch },
            title: format!("Velocity {}", v.show(units)),
            text: format!(
                "{} {place}; over {} a closing valve strikes hard, {} is the limit.",
                v.show(units),
                watch.show(units),
                stop.show(units)
            ),
            working: Working::new(
                "v = Q / (π d² / 4)",
                "house rule for the limits; surge Δp = ρ·a·v (Joukowsky 1898)",
            )
            .with("flow of the zone", self.zone.flow.show(units))
            .with(
                "watch / stop",
                format!("{} / {}", watch.show(units), stop.show(units)),
            )
            .gives(v.show(units)),
            remedies: [self.cures.larger_first_leg(), self.cures.split_in_two()]
                .into_iter()
                .flatten()
                .collect(),
        })
    }

    fn no_room(&self) -> Option<Finding> {
        let r = self.zone.regulator.as_ref()?;
        let wanted = self.plan.rules.regulator_room;
        if r.room >= wanted {
            return None;
        }
        let units = self.plan.units;
        let lower = match self.valve.regulation {
            Regulation::Valve { .. } => {
                let set = Pressure::from_psi((r.inlet - wanted).psi().floor());
                (set >= Pressure::from_psi(15.0))
                    .then(|| self.cures.fit(Regulation::Valve { set }))
                    .flatten()
            }
            _ => None,
        };
        Some(Finding {
            code: "regulator-no-room",
            severity: Severity::Fix,
            title: "Regulator has no working room".into(),
            text: format!(
                "{}: {} arrive where {} + {} are needed. Its outlet may be anywhere between set point and \
                    inlet.",
                r.label,
                self.psi(r.inlet),
                r.set.show_round(units),
                wanted.show_round(units)
            ),
            working: Working::new("room = inlet − set point", "practice: about 10 psi, house rule")
                .with("inlet", self.psi(r.inlet))
                .with("set point", self.psi(r.set))
                .with("wanted", self.psi(wanted))
                .gives(self.psi(r.room)),
            remedies: [lower, self.cures.fit(Regulation::None)]
                .into_iter()
                .flatten()
                .collect(),
        })
    }

    fn outside_band(&self) -> Option<Finding> {
        let r = self.zone.regulator.as_ref()?;
        let (least, most) = r.flow_band?;
        let flow = self.zone.flow;
        if (least..=most).contains(&flow) {
            return None;
        }
        let units = self.plan.units;
        let what = if flow < least {
            "below it the regulator hunts or creeps"
        } else {
            "above it costs more pressure than it holds"
        };
        Some(Finding {
            code: "regulator-flow",
            severity: Severity::Watch,
            title: "Flow outside the regulator's".into(),
            text: format!(
                "{}: {} runs, it is made for {} to {}; {what}.",
                r.label,
                flow.show(units),
                least.show(units),
                most.show(units)
            ),
            working: Working::new("least ≤ Q ≤ most", "typical of the class")
                .with("Q", flow.show(units))
                .with("band", format!("{} to {}", least.show(units), most.show(units)))
                .gives("outside"),
            remedies: [matches!(self.valve.regulation, Regulation::Valve { .. })
                .then(|| self.cures.zone_bodies())
                .flatten()]
            .into_iter()
            .flatten()
            .collect(),
        })
    }

    fn below_valve_minimum(&self) -> Option<Finding> {
        let model = self.catalogue.device(&self.valve.model)?;
        let least = model.min_flow?;
        if self.zone.flow >= least {
            return None;
        }
        let units = self.plan.units;
        let low_flow = (self.zone.flow.gpm() < 8.0)
            .then(|| {
                self.cures
                    .change_valve("Low-flow valve", |v| v.model = "valve-drip-3/4in".into())
            })
            .flatten();
        Some(Finding {
            code: "valve-min-flow",
            severity: Severity::Fix,
            title: "Too little flow for the valve".into(),
            text: format!(
                "{} needs {} to close reliably; {} runs.",
                model.label,
                least.show(units),
                self.zone.flow.show(units)
            ),
            working: Working::new("Q ≥ the valve's least flow", "typical of the class")
                .with("Q", self.zone.flow.show(units))
                .with("least", least.show(units))
                .gives("too little"),
            remedies: low_flow.into_iter().collect(),
        })
    }

    fn mixed(&self) -> Vec<Finding> {
        let groups: Vec<&HeadGroup> = self.groups().collect();
        let mut found = Vec::new();
        for (i, a) in groups.iter().enumerate() {
            for b in &groups[i + 1..] {
                let apart = reasons_apart(a, b, self.catalogue);
                let Some(weight) = apart.iter().map(|r| r.weight).max() else {
                    continue;
                };
                let never = weight == Weight::Never;
                let reasons: Vec<&str> = apart.iter().map(|r| r.reason.as_str()).collect();
                found.push(Finding {
                    code: if never { "mixed-never" } else { "mixed" },
                    severity: if never { Severity::Stop } else { Severity::Watch },
                    title: if never {
                        "These can't share a valve".into()
                    } else {
                        "These had better not share".into()
                    },
                    text: format!("{} and {}: {}.", a.name, b.name, reasons.join("; ")),
                    working: Working::new(
                        "what shares a valve gets the same minutes",
                        "practice; rates over 1.15 apart watch, over 1.5 stop",
                    )
                    .with(
                        "highest rate / lowest on this valve",
                        format!("{:.2}", self.zone.rate_ratio),
                    )
                    .gives(if never { "apart" } else { "apart unless you insist" }),
                    remedies: self.cures.part_from(b).into_iter().collect(),
                });
            }
        }
        found
    }

    fn dirty(&self) -> bool {
        self.plan
            .supply(&self.valve.supply)
            .is_some_and(|s| s.water != Water::Street)
    }

    fn drip_filter(&self) -> Option<Finding> {
        let filters = match self.plan.rules.drip {
            DripSchool::AlwaysBoth | DripSchool::RegulateByRating => true,
            DripSchool::FilterIfDirty => self.dirty(),
        };
        if !self.drip() || !filters || self.valve.filter.is_some() {
            return None;
        }
        Some(Finding {
            code: "drip-no-filter",
            severity: Severity::Fix,
            title: "Drip without a filter".into(),
            text: "Emitters clog from what no eye sees; the filter goes upstream of the regulator.".into(),
            working: Working::new(
                "every drip zone has a filter",
                format!("house rule: {}", school(self.plan.rules.drip)),
            )
            .gives("missing"),
            remedies: self
                .cures
                .change_valve("Screen filter behind the valve", |v| {
                    v.filter = Some("filter-3/4in".into())
                })
                .into_iter()
                .collect(),
        })
    }

    fn drip_regulator(&self) -> Option<Finding> {
        let wanted = match self.plan.rules.drip {
            DripSchool::AlwaysBoth | DripSchool::FilterIfDirty => true,
            DripSchool::RegulateByRating => self.zone.dead_end > self.plan.rules.drip_rating,
        };
        if !self.drip() || !wanted || self.valve.regulation != Regulation::None {
            return None;
        }
        Some(Finding {
            code: "drip-no-regulator",
            severity: Severity::Fix,
            title: "Drip without a regulator".into(),
            text: format!(
                "{} reach the fittings when an end is closed or a valve downstream shuts.",
                self.psi(self.zone.dead_end)
            ),
            working: Working::new(
                "regulate drip",
                format!("house rule: {}", school(self.plan.rules.drip)),
            )
            .with("static at the valve", self.psi(self.zone.dead_end))
            .with("tubing and fittings rated", self.psi(self.plan.rules.drip_rating))
            .gives("missing"),
            remedies: self.cures.regulate().into_iter().collect(),
        })
    }

    fn drip_rating(&self) -> Option<Finding> {
        let rating = self.plan.rules.drip_rating;
        if !self.drip() || self.valve.regulation.set().unwrap_or(self.zone.dead_end) <= rating {
            return None;
        }
        let arrives = self.valve.regulation.set().unwrap_or(self.zone.dead_end);
        Some(Finding {
            code: "drip-over-rating",
            severity: Severity::Stop,
            title: "Fittings will let go".into(),
            text: format!(
                "{} against a rating of {}: relieve pressure before opening and regulate first.",
                self.psi(arrives),
                self.psi(rating)
            ),
            working: Working::new(
                "what reaches a closed end ≤ rating",
                "physics: nothing is lost where nothing flows; rating is a house rule",
            )
            .with("reaches a closed end", self.psi(arrives))
            .with("rating", self.psi(rating))
            .gives(format!("{} over", self.psi(arrives - rating))),
            remedies: self.cures.regulate().into_iter().collect(),
        })
    }
}

fn school(school: DripSchool) -> &'static str {
    match school {
        DripSchool::AlwaysBoth => "always filter, always regulate",
        DripSchool::RegulateByRating => "always filter, regulate where static exceeds the rating",
        DripSchool::FilterIfDirty => "always regulate, filter wells, tanks and dirty water",
    }
}

impl Cures<'_> {
    /// Bodies instead of a module that the flow does not suit.
    fn zone_bodies(&self) -> Option<super::Remedy> {
        let group = self.plan.group(&self.zone.lowest().head.group)?;
        let set = self
            .catalogue
            .kind(self.catalogue.nozzle(&group.nozzle)?.kind)
            .body?;
        self.fit(Regulation::Body { set })
    }
}
