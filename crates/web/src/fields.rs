//! Reading forms. Every fault is kept with its field; what was typed stays where it was typed.

use crate::error::AppError;
use fenlo_core::plan::Fault;
use fenlo_core::units::{Flow, Length, Minutes, Pressure, QuantityError, Speed, Surface, UnitSystem, Volume};
use rust_decimal::Decimal;

/// A form as it came.
pub type Pairs = Vec<(String, String)>;

/// A form being read.
pub struct Fields {
    pairs: Pairs,
    units: UnitSystem,
    /// (field, message).
    pub errors: Vec<(String, String)>,
}

macro_rules! quantities {
    ($($method:ident, $optional:ident: $type:ty;)+) => {$(
        /// The quantity of a field; a fault is noted and zero given.
        pub fn $method(&mut self, field: &str) -> $type {
            let read = <$type>::typed(self.get(field), self.units);
            self.checked(field, read)
        }
        /// The same, where an empty field means none.
        #[allow(dead_code, reason = "not every quantity has an optional field yet")]
        pub fn $optional(&mut self, field: &str) -> Option<$type> {
            (!self.get(field).is_empty()).then(|| self.$method(field))
        }
    )+};
}

impl Fields {
    pub fn new(pairs: Pairs, units: UnitSystem) -> Self {
        // A text of the database has no NUL.
        let errors = pairs.iter().filter(|p| p.1.contains('\0'));
        let errors =
            errors.map(|p| (p.0.clone(), "contains a character that cannot be saved (NUL)".to_owned()));
        Self { errors: errors.collect(), pairs, units }
    }

    /// What was typed, without blanks at its ends; empty where the field is missing.
    pub fn get(&self, field: &str) -> &str {
        self.pairs.iter().find(|p| p.0 == field).map_or("", |p| p.1.trim())
    }

    /// True if the form has the field at all.
    pub fn has(&self, field: &str) -> bool {
        self.pairs.iter().any(|p| p.0 == field)
    }

    /// All values of a field that may be ticked more than once.
    pub fn all<'a>(&'a self, field: &'a str) -> impl Iterator<Item = &'a str> {
        self.pairs.iter().filter(move |p| p.0 == field).map(|p| p.1.as_str())
    }

    pub fn text(&self, field: &str) -> String {
        self.get(field).to_owned()
    }

    /// None where the field is empty or missing.
    pub fn text_if_any(&self, field: &str) -> Option<String> {
        Some(self.text(field)).filter(|t| !t.is_empty())
    }

    pub fn ticked(&self, field: &str) -> bool {
        self.get(field) == "yes"
    }

    pub fn fault(&mut self, field: &str, message: impl Into<String>) {
        self.errors.push((field.to_owned(), message.into()));
    }

    /// The number of the newest edit that the page showed when this was sent.
    pub fn base(&self) -> Option<i64> {
        self.get("base").parse().ok()
    }

    /// Keys of the page's own edits that were stored since.
    pub fn own(&self) -> Vec<String> {
        self.get("own").split(',').filter_map(crate::keys::of).take(crate::keys::MOST_OWN).collect()
    }

    /// How people of this job write quantities.
    pub fn units(&self) -> UnitSystem {
        self.units
    }

    /// True if nothing was found wrong with a field so far.
    pub fn is_sound(&self, field: &str) -> bool {
        self.errors.iter().all(|e| e.0 != field)
    }

    /// Notes a fault of the form as a whole, and ends its reading.
    pub fn stop<T>(&mut self, message: impl Into<String>) -> Result<T, AppError> {
        self.fault("form", message);
        Err(AppError::Faults(Vec::new()))
    }

    fn checked<T: Default>(&mut self, field: &str, read: Result<T, QuantityError>) -> T {
        read.unwrap_or_else(|e| {
            self.fault(field, e.to_string());
            T::default()
        })
    }

    quantities! {
        pressure, pressure_if_any: Pressure;
        flow, flow_if_any: Flow;
        length, length_if_any: Length;
        speed, speed_if_any: Speed;
        volume, volume_if_any: Volume;
        minutes, minutes_if_any: Minutes;
        surface, surface_if_any: Surface;
    }

    /// A depth of water: a bare number is inches or millimetres; none where the field is empty.
    pub fn depth_if_any(&mut self, field: &str) -> Option<Length> {
        let text = self.get(field).replace(',', ".");
        if text.is_empty() {
            return None;
        }
        let bare = text.parse::<f64>().ok().filter(|n| n.is_finite());
        Some(match bare {
            Some(n) if self.units.is_metric() => Length::from_m(n / 1000.0),
            Some(n) => Length::from_in(n),
            None => self.length(field),
        })
    }

    /// A length, zero where the field is empty.
    pub fn length_or_zero(&mut self, field: &str) -> Length {
        self.length_if_any(field).unwrap_or_default()
    }

    /// A whole number, zero where the field is empty.
    pub fn count(&mut self, field: &str) -> u32 {
        let text = self.text(field);
        if text.is_empty() {
            return 0;
        }
        text.parse().unwrap_or_else(|_| {
            self.fault(
                field,
                format!(
                    "enter a whole number, 0 or more (got ‘{}’)",
                    text.chars().take(20).collect::<String>()
                ),
            );
            0
        })
    }

    /// A price in the currency of the house, zero where the field is empty.
    pub fn price(&mut self, field: &str) -> Decimal {
        let text = self.text(field).replace(',', ".");
        if text.is_empty() {
            return Decimal::ZERO;
        }
        text.parse().unwrap_or_else(|_| {
            let typed: String = text.chars().take(20).collect();
            self.fault(field, format!("enter a price such as 28.50 (got ‘{typed}’)"));
            Decimal::ZERO
        })
    }

    /// A number of percent as typed, zero where the field is empty.
    pub fn percent(&mut self, field: &str) -> f64 {
        let text = self.get(field).trim_end_matches('%').trim().replace(',', ".");
        if text.is_empty() {
            return 0.0;
        }
        match text.parse::<f64>() {
            Ok(n) if n.is_finite() && (0.0..=100.0).contains(&n) => n,
            _ => {
                self.fault(field, "enter a number from 0 to 100");
                0.0
            }
        }
    }

    /// Degrees from 0 to 360, none where the field is empty.
    pub fn degrees_if_any(&mut self, field: &str) -> Option<f64> {
        if self.get(field).is_empty() {
            return None;
        }
        let degrees = self.number(field);
        if !(0.0..=360.0).contains(&degrees) {
            self.fault(field, "enter 0 to 360 degrees");
        }
        Some(degrees)
    }

    /// A number, with or without a degree sign; zero where the field is empty.
    pub fn number(&mut self, field: &str) -> f64 {
        let text = self.get(field).trim_end_matches('°').trim().replace(',', ".");
        if text.is_empty() {
            return 0.0;
        }
        match text.parse::<f64>() {
            Ok(n) if n.is_finite() && n.abs() <= 1e6 => n,
            _ => {
                self.fault(
                    field,
                    format!("enter a number (got ‘{}’)", text.chars().take(20).collect::<String>()),
                );
                0.0
            }
        }
    }

    /// A choice written in kebab-case, as the plan writes it.
    pub fn choice<T: serde::de::DeserializeOwned + Default>(&mut self, field: &str) -> T {
        let read = serde_json::from_value(serde_json::Value::String(self.text(field)));
        read.unwrap_or_else(|_| {
            self.fault(field, "choose one from the list");
            T::default()
        })
    }

    /// Anything that parses from a text of its own.
    pub fn parsed<T: std::str::FromStr<Err: ToString>>(&mut self, field: &str) -> Option<T> {
        self.get(field).parse().map_err(|e: T::Err| self.fault(field, e.to_string())).ok()
    }
}

/// Brings faults of the plan to the fields they belong to: the last name of the path that is a
/// field, or `form`.
pub fn at_fields(faults: &[Fault], fields: &[&str]) -> Vec<(String, String)> {
    faults
        .iter()
        .map(|fault| {
            let names = fault.path.split(['.', '[', ']']).filter(|n| !n.is_empty());
            let field = names.filter_map(|n| fields.iter().find(|f| **f == n)).next_back();
            match field {
                Some(field) => ((*field).to_owned(), fault.message.clone()),
                None => ("form".to_owned(), fault.to_string()),
            }
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn fields(pairs: &[(&str, &str)]) -> Fields {
        Fields::new(pairs.iter().map(|(k, v)| ((*k).to_owned(), (*v).to_owned())).collect(), UnitSystem::Us)
    }

    #[test]
    fn every_fault_is_kept_with_its_field() {
        let mut f = fields(&[
            ("pressure", "abc"),
            ("length", "12"),
            ("count", "-1"),
            ("spread", "120"),
            ("soil", "moon dust"),
        ]);
        f.pressure("pressure");
        assert!((f.length("length").ft() - 12.0).abs() < 1e-9, "a bare number takes the field's unit");
        f.count("count");
        f.percent("spread");
        let _: fenlo_core::plan::Soil = f.choice("soil");
        assert_eq!(
            f.errors.iter().map(|e| e.0.as_str()).collect::<Vec<_>>(),
            ["pressure", "count", "spread", "soil"]
        );
    }

    #[test]
    fn an_empty_field_is_none_where_it_may_be() {
        let mut f = fields(&[("a", " "), ("b", "3 ft")]);
        assert_eq!(f.length_if_any("a"), None);
        assert!(f.length_if_any("b").is_some() && f.errors.is_empty());
        assert_eq!((f.count("missing"), f.percent("missing")), (0, 0.0));
        f.pressure("missing");
        assert_eq!(f.errors.len(), 1, "a figure that is needed is asked for");
    }

    #[test]
    fn faults_of_the_plan_come_to_the_last_field_of_their_path() {
        let fault = |path: &str| Fault { path: path.into(), message: "wrong".into() };
        let found = at_fields(
            &[
                fault("groups[3].row.emitter_spacing"),
                fault("supplies[0].readings[1].measured.flow"),
                fault("groups"),
            ],
            &["spacing", "emitter_spacing", "flow"],
        );
        assert_eq!(
            found,
            [
                ("emitter_spacing".into(), "wrong".into()),
                ("flow".into(), "wrong".into()),
                ("form".to_owned(), "groups: wrong".to_owned())
            ]
        );
    }
}
