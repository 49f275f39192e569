use super::pipe::PipeId;
use super::read::rows;
use crate::network::Emission;
use crate::terms::{Lang, term};
use crate::units::{Flow, Length, Pressure, Rate};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// Kinds of head. What differs in rate or pressure is a kind of its own.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Kind {
    /// Fixed spray.
    Spray,
    /// Streams that turn slowly, standard throw.
    Rotator,
    /// The same for narrow ground.
    RotatorShort,
    /// Gear-driven rotor, short throw.
    RotorShort,
    /// Gear-driven rotor, middle throw.
    RotorMid,
    /// Gear-driven rotor, long throw.
    RotorLarge,
    /// Small sprinkler on a stake.
    Stake,
    /// Floods a basin round a plant.
    Bubbler,
    /// Tube with emitters in it.
    Dripline,
    /// Single emitter.
    Emitter,
    /// Thin-walled drip tape.
    Tape,
}

impl Kind {
    /// Its name.
    pub fn name(self, lang: Lang) -> &'static str {
        let key = match self {
            Self::Spray => "head.spray",
            Self::Rotator => "head.rotator",
            Self::RotatorShort => "head.rotator-short",
            Self::RotorShort => "head.rotor-short",
            Self::RotorMid => "head.rotor-mid",
            Self::RotorLarge => "head.rotor-large",
            Self::Stake => "head.stake",
            Self::Bubbler => "head.bubbler",
            Self::Dripline => "head.dripline",
            Self::Emitter => "head.emitter",
            Self::Tape => "head.tape",
        };
        term(key, lang)
    }

    /// Arcs between the least and the greatest that are not made, degrees: the streams of a rotator end
    /// where its next insert, the full circle, begins.
    pub fn arcs_not_made(self) -> Option<(u16, u16)> {
        matches!(self, Self::Rotator | Self::RotatorShort).then_some((271, 359))
    }
    /// Matched over throws: turning the radius down throttles the flow in proportion to the ground that is
    /// left, so that the rate stays. Other kinds only break the stream, and keep their flow.
    pub fn keeps_rate_turned_down(self) -> bool {
        matches!(self, Self::Rotator | Self::RotatorShort)
    }
    /// A rotor of any size.
    pub fn is_rotor(self) -> bool {
        matches!(self, Self::RotorShort | Self::RotorMid | Self::RotorLarge)
    }
    /// Drip: filtered, regulated, on valves of its own.
    pub fn is_drip(self) -> bool {
        matches!(self, Self::Dripline | Self::Emitter | Self::Tape)
    }
}

/// What is common to a kind of head.
#[derive(Debug, Clone, PartialEq)]
pub struct HeadClass {
    /// The kind.
    pub kind: Kind,
    /// Pressure the chart figures hold for.
    pub nominal: Pressure,
    /// Least usable pressure at the nozzle.
    pub low: Pressure,
    /// Greatest usable pressure at the nozzle.
    pub high: Pressure,
    /// Exponent of flow over pressure; 0 for pressure-compensating.
    pub exponent: f64,
    /// Precipitation rates that it is made for, where its nozzles leave the choice; typical for this type.
    pub rates: Option<(Rate, Rate)>,
    /// Set point of the body with a regulator in it, if made.
    pub body: Option<Pressure>,
    /// Pipe thread at its foot; none: it sits in tube, or on a stake.
    pub thread: Option<String>,
    /// Its nozzle is screwed into a pop-up body that is bought by itself.
    pub in_body: bool,
}

/// Pressures that a class of head is made for, at the nozzle.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PressureBand {
    /// Least usable.
    pub least: Pressure,
    /// Nominal: what the chart figures hold for.
    pub best: Pressure,
    /// Greatest usable.
    pub most: Pressure,
}

/// Set points that regulated bodies are made with, psi.
const BODIES_PSI: [f64; 3] = [30.0, 40.0, 45.0];

impl HeadClass {
    /// Set points of bodies worth trying for it: its own, and others from nominal up to an eighth over. None
    /// where no body of the kind is made.
    pub fn bodies(&self) -> Vec<Pressure> {
        let Some(own) = self.body else { return Vec::new() };
        let others = BODIES_PSI.map(Pressure::from_psi).into_iter();
        let near = others.filter(|p| *p != own && *p >= self.nominal && *p <= self.nominal * 1.13);
        [own].into_iter().chain(near).collect()
    }
    /// Least, nominal and greatest usable pressure.
    pub fn band(&self) -> PressureBand {
        PressureBand { least: self.low, best: self.nominal, most: self.high }
    }
}

/// Throw goes with pressure to this power, below nominal.
pub(crate) const THROW_EXPONENT: f64 = 0.3;

/// How the flow goes with the arc.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum ArcRule {
    /// In proportion: a quarter circle gives a quarter (matched).
    Proportional,
    /// Any arc, the same flow (rotors: match by nozzle).
    Any,
    /// One shape only.
    Fixed,
}

/// A nozzle, emitter or dripline.
#[derive(Debug, Clone, PartialEq)]
pub struct Nozzle {
    /// Stable name in files, e.g. `spray-12`.
    pub id: String,
    /// Its kind.
    pub kind: Kind,
    /// For people.
    pub label: String,
    /// Throw at nominal pressure.
    pub radius: Option<Length>,
    /// Throw that it can be turned down to, where that is not the usual quarter less.
    pub least_radius: Option<Length>,
    /// Flow at nominal pressure; of the full circle where proportional.
    pub flow: Flow,
    /// Flow by arc.
    pub arc_rule: ArcRule,
    /// Least and greatest arc, degrees.
    pub arcs: (u16, u16),
    /// What strip and square patterns wet.
    pub pattern: Option<Strip>,
    /// On the truck: laid before others of its kind.
    pub favourite: bool,
    /// Exponent of flow over pressure where a chart says otherwise than the kind.
    pub exponent: Option<f64>,
    /// The tube that it comes in, where that is not the usual one of its kind.
    pub tube: Option<PipeId>,
}

/// A rectangle wetted by one head.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Strip {
    /// The shorter way.
    pub width: Length,
    /// The longer way.
    pub length: Length,
    /// How it lies about its head.
    pub lies: Lies,
}

/// How a strip lies about its head.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Lies {
    /// Its length before the head.
    Ahead,
    /// Its width before the head, half its length to each side.
    Across,
    /// All round the head.
    Round,
}

/// Share of its throw by which a nozzle can be turned down where nothing else is known of it.
const TURNS_DOWN: f64 = 0.25;

/// What a regulator in a body costs wide open, at the nozzle's nominal flow, psi: typical for this type.
const BODY_LOSS_PSI: f64 = 2.0;

/// Least pressure of a compensating emitter, typical for this type.
pub(crate) const COMPENSATES_FROM_PSI: f64 = 8.5;

/// Exponent from which an emitter of a compensating kind does not compensate.
const NOT_COMPENSATING: f64 = 0.2;

impl Nozzle {
    /// True if it can be set to an arc, degrees.
    pub fn makes(&self, arc: u16) -> bool {
        let gap = self.kind.arcs_not_made();
        self.arcs.0 <= arc && arc <= self.arcs.1 && gap.is_none_or(|(from, to)| arc < from || arc > to)
    }

    /// Flow at nominal pressure for an arc in degrees.
    pub fn flow_for_arc(&self, arc: u16) -> Flow {
        match self.arc_rule {
            ArcRule::Proportional => self.flow * (f64::from(arc) / 360.0),
            ArcRule::Any | ArcRule::Fixed => self.flow,
        }
    }

    /// Flow at nominal pressure as it is set: for its arc, and with the square of the throw where the kind keeps
    /// its rate when it is turned down, `flow_for_arc · (turned / R)²`.
    ///
    /// A rotator of 14 ft for a half circle, 0.81 · 180/360 = 0.405 gpm; turned down to 10 ft 0.207 gpm: both put
    /// 0.4 in/h on their ground.
    pub fn flow_set(&self, arc: u16, turned_to: Option<Length>) -> Flow {
        let flow = self.flow_for_arc(arc);
        match (turned_to, self.radius) {
            (Some(to), Some(full)) if self.kind.keeps_rate_turned_down() && full.m() > 0.0 => {
                flow * (to / full).clamp(0.0, 1.0).powi(2)
            }
            _ => flow,
        }
    }

    /// The least throw that it can be turned down to.
    pub fn least_throw(&self) -> Option<Length> {
        self.least_radius.or(self.radius.map(|full| full * (1.0 - TURNS_DOWN)))
    }

    /// The least throw that a job may say. Before sizes had a least throw of their own any could go down by a
    /// quarter: jobs of that time open still, and a finding tells what their nozzles do not reach.
    pub fn least_throw_of_a_job(&self) -> Option<Length> {
        let quarter_less = self.radius? * (1.0 - TURNS_DOWN);
        Some(self.least_throw()?.min(quarter_less))
    }

    /// Throw at a pressure: falls with (p/p0)^0.3 below nominal; above it the stream breaks up and
    /// gains 3 % at most. A nozzle turned down throws less in the same proportion.
    pub fn throw(&self, kind: &HeadClass, pressure: Pressure, turned_to: Option<Length>) -> Option<Length> {
        let full = turned_to.or(self.radius)?;
        let share = (pressure / kind.nominal).max(0.0);
        let grown = share.powf(THROW_EXPONENT);
        Some(full * if share < 1.0 { grown } else { grown.min(1.03) })
    }

    /// Exponent of its flow over pressure: its chart's own, else that of its class.
    pub fn exponent_with(&self, class: &HeadClass) -> f64 {
        // Of a compensating kind a chart may say that this one does not compensate.
        let says = self.exponent.filter(|e| class.exponent != 0.0 || *e > NOT_COMPENSATING);
        says.unwrap_or(class.exponent)
    }

    /// Share of the pressure at a regulated body's inlet that reaches the nozzle while the regulator is
    /// wide open: its loss goes with the square of the flow as the orifice's does, 2 psi at nominal.
    pub fn behind_body(class: &HeadClass) -> f64 {
        class.nominal / (class.nominal + Pressure::from_psi(BODY_LOSS_PSI))
    }

    /// Flow by pressure at the inlet for an arc and a throw that it is turned down to, behind an optional regulator in the body. The body's
    /// own loss is in it: pressures are those before the body, [`Self::behind_body`] more than at the
    /// nozzle.
    pub fn emission(
        &self,
        kind: &HeadClass,
        (arc, turned_to): (u16, Option<Length>),
        regulator: Option<Pressure>,
    ) -> Emission {
        let flow = self.flow_set(arc, turned_to);
        if self.exponent_with(kind) == 0.0 {
            Emission::Compensating { flow, min: Pressure::from_psi(COMPENSATES_FROM_PSI) }
        } else {
            let before_body = regulator.map_or(1.0, |_| 1.0 / Self::behind_body(kind));
            Emission::Orifice {
                flow,
                at_pressure: kind.nominal * before_body,
                exponent: self.exponent_with(kind),
                regulator: regulator.map(|set| set * before_body),
            }
        }
    }
}

#[derive(Deserialize)]
struct KindCsv {
    kind: Kind,
    nominal_psi: f64,
    low_psi: f64,
    high_psi: f64,
    exponent: f64,
    rate_low_inph: Option<f64>,
    rate_high_inph: Option<f64>,
    body_psi: Option<f64>,
    thread: Option<String>,
    body: Option<String>,
}

pub(super) fn classes() -> Vec<HeadClass> {
    rows::<KindCsv>(include_str!("data/kinds.csv"))
        .into_iter()
        .map(|r| HeadClass {
            kind: r.kind,
            nominal: Pressure::from_psi(r.nominal_psi),
            low: Pressure::from_psi(r.low_psi),
            high: Pressure::from_psi(r.high_psi),
            exponent: r.exponent,
            rates: r.rate_low_inph.zip(r.rate_high_inph).map(|(low, high)| {
                let rate = |inches: f64| Rate::from_mmph(25.4 * inches);
                (rate(low), rate(high))
            }),
            body: r.body_psi.map(Pressure::from_psi),
            thread: r.thread,
            in_body: r.body.is_some(),
        })
        .collect()
}

#[derive(Deserialize)]
struct NozzleCsv {
    id: String,
    kind: Kind,
    label: String,
    radius_ft: Option<f64>,
    least_ft: Option<f64>,
    flow_gpm: f64,
    arc_rule: ArcRule,
    arc_min: u16,
    arc_max: u16,
    width_ft: Option<f64>,
    length_ft: Option<f64>,
    lies: Option<Lies>,
    exponent: Option<f64>,
    tube: Option<PipeId>,
}

pub(super) fn nozzles() -> Vec<Nozzle> {
    rows::<NozzleCsv>(include_str!("data/nozzles.csv"))
        .into_iter()
        .map(|r| Nozzle {
            id: r.id,
            kind: r.kind,
            label: r.label,
            radius: r.radius_ft.map(Length::from_ft),
            least_radius: r.least_ft.map(Length::from_ft),
            flow: Flow::from_gpm(r.flow_gpm),
            arc_rule: r.arc_rule,
            arcs: (r.arc_min, r.arc_max),
            pattern: r.width_ft.zip(r.length_ft).zip(r.lies).map(|((w, l), lies)| Strip {
                width: Length::from_ft(w),
                length: Length::from_ft(l),
                lies,
            }),
            favourite: false,
            exponent: r.exponent,
            tube: r.tube,
        })
        .collect()
}
