use super::Question;
use crate::catalogue::{ArcRule, Catalogue, Duty, PipeDuty, PipeId};
use crate::job::Job;
use crate::plan::{Arrangement, Regulation};
use crate::units::{Flow, Length, Pressure, QuantityError, UnitSystem};

/// A field of the question.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Field {
    /// Its name, on the page and as a flag.
    pub name: &'static str,
    /// What stands in it before anybody typed.
    pub usual: &'static str,
    /// An example of what may stand in it.
    pub example: &'static str,
}

macro_rules! fields {
    ($($name:literal $usual:literal $example:literal;)*) => {
        impl Form<'_> {
            /// All fields, in the order in which they are asked.
            pub const FIELDS: &'static [Field] =
                &[$(Field { name: $name, usual: $usual, example: $example }),*];
        }
    };
}

fields! {
    "units" "us" "us or metric";
    "static" "64 psi" "64 psi";
    "dynamic" "" "10gpm:55psi";
    "meter" "3/4in" "3/4in";
    "service" "copper-l 1in" "copper-l 1in 55ft";
    "service_length" "55 ft" "55 ft";
    "backflow" "vacuum-breaker" "vacuum-breaker";
    "valve" "" "valve-1in";
    "head" "spray-12" "spray-12";
    "arc" "180" "180";
    "count" "9" "9";
    "spacing" "12 ft" "12 ft";
    "pipe" "class-200 3/4in" "class-200 3/4in";
    "arrangement" "chain" "chain, middle or h";
    "distance" "40 ft" "40 ft";
    "rise" "2 ft" "2 ft";
    "regulate" "none" "none, valve:40psi, inline:30psi or body:30psi";
    "set" "" "34 psi";
}

/// The field of a name.
pub fn field(name: &str) -> Option<&'static Field> {
    Form::FIELDS.iter().find(|f| f.name == name)
}

/// What can't be used, at its field.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FieldFault {
    /// Name of the field.
    pub field: &'static str,
    /// What is wrong and what is expected.
    pub message: String,
}

/// Whether a number may stand without its unit.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Bare {
    /// It takes the unit that the page shows there.
    Taken,
    /// It is refused: on a command line nothing shows the unit.
    Refused,
}

/// The question as it was typed: for each field all that was given for it.
pub struct Form<'a> {
    /// What was typed into a field; nothing where it is missing.
    pub values: &'a dyn Fn(&str) -> Vec<String>,
    /// See [`Bare`].
    pub bare: Bare,
}

/// A quantity that is read with or without its unit.
trait Quantity: Sized + Default + std::str::FromStr<Err = QuantityError> {
    fn typed(text: &str, units: UnitSystem) -> Result<Self, QuantityError>;
}
macro_rules! quantity {
    ($($name:ident)*) => {$(
        impl Quantity for $name {
            fn typed(text: &str, units: UnitSystem) -> Result<Self, QuantityError> {
                $name::typed(text, units)
            }
        }
    )*};
}
quantity! { Pressure Flow Length }

struct Reading<'a> {
    form: &'a Form<'a>,
    units: UnitSystem,
    faults: Vec<FieldFault>,
}

impl Form<'_> {
    /// The job that asks the question.
    ///
    /// # Errors
    /// Every field that can't be used, with what is expected there.
    pub fn read(&self) -> Result<Job, Vec<FieldFault>> {
        let units = UnitSystem::named(&(self.values)("units").concat());
        let mut reading = Reading { form: self, units, faults: Vec::new() };
        let job = Job::new(reading.question().plan());
        if reading.faults.is_empty() {
            reading.faults = job
                .faults()
                .into_iter()
                .map(|f| FieldFault { field: field_of(&f.path), message: f.message })
                .collect();
        }
        if reading.faults.is_empty() { Ok(job) } else { Err(reading.faults) }
    }
}

impl Reading<'_> {
    fn fault(&mut self, field: &'static str, message: impl Into<String>) {
        self.faults.push(FieldFault { field, message: message.into() });
    }

    /// The first value of a field without blanks at its ends; empty where there is none.
    fn text(&self, field: &str) -> String {
        let values = (self.form.values)(field);
        values.first().map_or_else(String::new, |v| v.trim().to_owned())
    }

    /// The same, where `none` and nothing mean that there is none.
    fn given(&self, field: &str) -> Option<String> {
        Some(self.text(field)).filter(|t| !t.is_empty() && t != "none")
    }

    fn quantity<T: Quantity>(&mut self, field: &'static str, text: &str) -> Option<T> {
        let read = match self.form.bare {
            Bare::Taken => T::typed(text, self.units),
            Bare::Refused => text.parse(),
        };
        read.map_err(|e| self.fault(field, e.to_string())).ok()
    }

    fn at<T: Quantity>(&mut self, field: &'static str) -> T {
        let text = self.text(field);
        self.quantity(field, &text).unwrap_or_default()
    }

    fn number(&mut self, field: &'static str) -> u32 {
        let text = self.text(field);
        if text.is_empty() {
            return 0;
        }
        text.parse().unwrap_or_else(|_| {
            let given: String = text.chars().take(20).collect();
            self.fault(field, format!("enter a whole number, 0 or more (got ‘{given}’)"));
            0
        })
    }

    fn question(&mut self) -> Question {
        let catalogue = Catalogue::builtin();
        let nozzle = catalogue.nozzle(&self.text("head"));
        let fixed = nozzle.is_some_and(|n| n.arc_rule == ArcRule::Fixed);
        let body = nozzle.and_then(|n| catalogue.class(n.kind).body);
        let rise = if self.text("rise").is_empty() { Length::ZERO } else { self.at("rise") };
        Question {
            units: self.units,
            static_pressure: self.at("static"),
            dynamic: self.dynamic(),
            service: self.service(),
            meter: self.given("meter").map(|size| size.replace(' ', "")),
            backflow: self.given("backflow"),
            valve: self.given("valve").unwrap_or_else(|| catalogue.valve_of(Duty::Standard).id.clone()),
            nozzle: self.text("head"),
            arc: if fixed { 360 } else { self.number("arc").min(u32::from(u16::MAX)) as u16 },
            count: self.number("count"),
            spacing: self.at("spacing"),
            pipe: self.pipe(),
            arrangement: self.arrangement(),
            distance: self.at("distance"),
            rise,
            regulation: self.regulation(body),
        }
    }

    fn dynamic(&mut self) -> Vec<(Flow, Pressure)> {
        let mut pairs = Vec::new();
        for pair in (self.form.values)("dynamic").iter().filter(|p| !p.trim().is_empty()) {
            let Some((flow, pressure)) = pair.split_once(':') else {
                self.fault("dynamic", "use flow:pressure, such as 10gpm:55psi");
                continue;
            };
            let (flow, pressure) = (self.quantity("dynamic", flow), self.quantity("dynamic", pressure));
            pairs.extend(flow.zip(pressure));
        }
        pairs
    }

    /// Pipe and length in two fields, or in one: `1in copper-l 55ft`.
    fn service(&mut self) -> Option<(PipeId, Length)> {
        let text = self.given("service")?;
        if !self.text("service_length").is_empty() {
            let pipe = text.parse().map_err(|e: crate::catalogue::PipeIdError| {
                self.fault("service", e.to_string());
            });
            return Some((pipe.ok()?, self.at("service_length")));
        }
        // The length is what stands last.
        let words: Vec<&str> = text.split_whitespace().collect();
        for take in [1, 2] {
            let Some(cut) = words.len().checked_sub(take) else {
                break;
            };
            if let (Ok(length), Ok(pipe)) = (words[cut..].join(" ").parse(), words[..cut].join(" ").parse()) {
                return Some((pipe, length));
            }
        }
        let wanted = "use size, material and length, such as 1in copper-l 55ft";
        self.fault("service", format!("‘{text}’: {wanted}"));
        None
    }

    fn pipe(&mut self) -> PipeId {
        let text = self.text("pipe");
        text.parse().unwrap_or_else(|e: crate::catalogue::PipeIdError| {
            self.fault("pipe", e.to_string());
            Catalogue::builtin().pipe_of(PipeDuty::Lateral).id()
        })
    }

    fn arrangement(&mut self) -> Arrangement {
        match self.text("arrangement").as_str() {
            "chain" | "" => Arrangement::Chain,
            "middle" => Arrangement::Middle,
            "h" => Arrangement::H,
            other => {
                self.fault("arrangement", format!("use chain, middle or h (got ‘{other}’)"));
                Arrangement::Chain
            }
        }
    }

    /// Where, and its set point in a field of its own or behind a colon; without one the usual.
    fn regulation(&mut self, body: Option<Pressure>) -> Regulation {
        let text = self.text("regulate");
        let (at, behind) = match text.split_once(':') {
            Some((at, set)) => (at, Some(set)),
            None => (text.as_str(), None),
        };
        let usual = match at {
            "" | "none" => return Regulation::None,
            "valve" => 40.0,
            "inline" => 30.0,
            "body" => body.map_or(30.0, Pressure::psi),
            other => {
                self.fault("regulate", format!("use none, valve, inline or body (got ‘{other}’)"));
                return Regulation::None;
            }
        };
        let own = self.text("set");
        let set = match (behind, own.as_str()) {
            (Some(set), _) => self.quantity("regulate", set),
            (None, "") => Some(Pressure::from_psi(usual)),
            (None, set) => self.quantity("set", set),
        };
        let Some(set) = set else {
            return Regulation::None;
        };
        match at {
            "valve" => Regulation::Valve { set },
            "inline" => Regulation::Inline { set },
            _ => Regulation::Body { set },
        }
    }
}

/// The field behind a path of the plan.
fn field_of(path: &str) -> &'static str {
    match path {
        p if p.starts_with("supplies[0].readings[0]") => "static",
        p if p.starts_with("supplies[0].readings") => "dynamic",
        p if p.ends_with("part.size") => "meter",
        p if p.ends_with("part.model") => "backflow",
        p if p.ends_with("part.length") => "service_length",
        p if p.contains("].part.") => "service",
        p if p.ends_with(".nozzle") || p.ends_with(".row") => "head",
        p if p.ends_with(".arc") => "arc",
        p if p.contains("lots") || p == "groups" => "count",
        p if p.ends_with(".spacing") => "spacing",
        p if p.ends_with(".pipe") => "pipe",
        p if p.ends_with(".distance") => "distance",
        p if p.ends_with(".rise") => "rise",
        p if p.contains("regulation") => "regulate",
        p if p.ends_with(".model") => "valve",
        _ => "head",
    }
}
