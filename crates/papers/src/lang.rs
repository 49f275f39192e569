//! English and Spanish. English is in the code, its Spanish in `es.csv`, worded as crews say it; names of
//! things come from the table of terms.

use fenlo_core::plan::Date;
use fenlo_core::takeoff::{LineKind, Unit};
pub use fenlo_core::terms::Lang;
use fenlo_core::terms::pairs;
use fenlo_drawing::{JointLetters, Legend};
use std::borrow::Cow;
use std::collections::HashMap;
use std::sync::LazyLock;

static SPANISH: LazyLock<HashMap<String, String>> = LazyLock::new(|| {
    let mut reader = csv::ReaderBuilder::new().delimiter(b';').from_reader(include_str!("es.csv").as_bytes());
    let rows = reader.deserialize::<(String, String)>();
    let terms = pairs().map(|(english, spanish)| (english.to_owned(), spanish.to_owned()));
    rows.filter_map(Result::ok).chain(terms).collect()
});

/// What documents say in a language.
pub(crate) trait Phrases {
    /// Its code.
    fn code(self) -> &'static str;
    /// A phrase. What has no Spanish stays English: a test holds that nothing does.
    fn say(self, english: &str) -> &str;
    /// A phrase with its figures in place of `{}`, one after the other.
    fn with(self, english: &str, figures: &[&str]) -> String;
    /// The label of a part: what stands before its figures is translated, figures and sizes stay.
    fn label<'l>(self, label: &'l str) -> Cow<'l, str>;
    /// A size behind a label.
    fn size(self, size: &str) -> String;
    fn section(self, kind: LineKind) -> &'static str;
    fn unit(self, unit: &Unit, n: f64) -> String;
    /// The letters of shutoffs, drains and flush points on the plan, as the legend explains them.
    fn joint_letters(self) -> JointLetters;
    fn legend(self, entry: Legend) -> &'static str;
    /// A day within a sentence: `Jul 3, 2026`, `3 jul 2026`.
    fn day(self, date: Date) -> String;
    fn month(self, month: u8) -> &'static str;
}

impl Phrases for Lang {
    fn code(self) -> &'static str {
        match self {
            Self::En => "en",
            Self::Es => "es",
        }
    }

    fn say(self, english: &str) -> &str {
        match self {
            Self::En => english,
            Self::Es => SPANISH.get(english).map_or(english, String::as_str),
        }
    }

    fn with(self, english: &str, figures: &[&str]) -> String {
        let mut out = String::new();
        let mut figures = figures.iter();
        for (i, part) in self.say(english).split("{}").enumerate() {
            if i > 0 {
                out.push_str(figures.next().unwrap_or(&""));
            }
            out.push_str(part);
        }
        out
    }

    fn label<'l>(self, label: &'l str) -> Cow<'l, str> {
        if self == Self::En {
            return Cow::Borrowed(label);
        }
        if let Some(known) = SPANISH.get(label) {
            return Cow::Owned(known.clone());
        }
        let figures = label.find(|c: char| c.is_ascii_digit()).unwrap_or(label.len());
        let (stem, rest) = label.split_at(figures);
        match SPANISH.get(stem.trim_end()) {
            Some(known) => Cow::Owned(format!("{known} {rest}").trim_end().to_owned()),
            None => Cow::Borrowed(label),
        }
    }

    fn size(self, size: &str) -> String {
        if self == Self::En {
            return size.to_owned();
        }
        size.replace(" to ", " a ")
            .replace("every ", "cada ")
            .replace("regulated", "regulado a")
            .replace("adjustable arc", "arco ajustable")
            .replace("stations", "estaciones")
    }

    fn section(self, kind: LineKind) -> &'static str {
        let english = fenlo_words::section(kind);
        match self {
            Self::En => english,
            Self::Es => SPANISH.get(english).map_or(english, String::as_str),
        }
    }

    fn unit(self, unit: &Unit, n: f64) -> String {
        let english = fenlo_words::unit(unit, n);
        self.say(&english).to_owned()
    }

    fn joint_letters(self) -> JointLetters {
        match self {
            Self::En => JointLetters::ENGLISH,
            Self::Es => JointLetters::SPANISH,
        }
    }

    fn legend(self, entry: Legend) -> &'static str {
        let english = match entry {
            Legend::Main => "Mainline",
            Legend::Lateral => "Lateral, color by valve",
            Legend::Sleeve => "Sleeve under pavement",
            Legend::Head => "Head; tick shows arc center",
            Legend::Drip => "Drip tubing",
            Legend::Box => "Valve box with its valves",
            Legend::Controller => "Controller",
            Legend::Water => "Meter or water",
            Legend::Joint => "S shutoff, D drain, F flush",
            Legend::Plant => "Plant at mature size",
            Legend::NoDig => "No-dig area",
        };
        match self {
            Self::En => english,
            Self::Es => SPANISH.get(english).map_or(english, String::as_str),
        }
    }

    fn day(self, date: Date) -> String {
        match self {
            Self::En => fenlo_words::day(date),
            Self::Es => format!("{} {} {}", date.day_of_month(), self.month(date.month()), date.year()),
        }
    }

    fn month(self, month: u8) -> &'static str {
        const EN: [&str; 12] =
            ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];
        const ES: [&str; 12] =
            ["ene", "feb", "mar", "abr", "may", "jun", "jul", "ago", "sep", "oct", "nov", "dic"];
        let names = if self == Self::En { EN } else { ES };
        names[usize::from(month.clamp(1, 12) - 1)]
    }
}

/// Whether Spanish knows a phrase or the stem of a label.
#[cfg(test)]
pub(crate) fn knows(english: &str) -> bool {
    SPANISH.contains_key(english)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::covered;
    use crate::sheets::ENTRIES;
    use fenlo_core::assess::assess;
    use fenlo_core::catalogue::Catalogue;
    use fenlo_core::job::Job;
    use fenlo_core::takeoff::takeoff;

    /// Phrases of the sources: every string that has a blank or begins with a capital and is no name of code.
    fn phrases(source: &str) -> Vec<String> {
        let mut found = Vec::new();
        for line in source.lines().filter(|l| !l.trim_start().starts_with("//")) {
            let mut parts = line.split('"');
            parts.next();
            while let Some(text) = parts.next() {
                parts.next();
                // What stands in braces is code.
                let bare: String = text.split('{').map(|p| p.split_once('}').map_or(p, |p| p.1)).collect();
                let words = bare.chars().filter(|c| c.is_alphabetic()).count();
                let capital = text.chars().next().is_some_and(|c| c.is_uppercase() || c == '{');
                if words > 2 && capital && !text.contains("::") {
                    found.push(text.to_owned());
                }
            }
        }
        found
    }

    #[test]
    fn everything_that_a_crew_reads_has_its_spanish() {
        let source = [
            include_str!("packet/mod.rs"),
            include_str!("packet/steps.rs"),
            include_str!("packet/lists.rs"),
            include_str!("packet/record.rs"),
            include_str!("quote.rs"),
        ]
        .concat();
        // A phrase that goes on in the next line is one phrase.
        let mut parts = source.split("\\\n");
        let mut source = parts.next().unwrap_or_default().to_owned();
        parts.for_each(|p| source.push_str(p.trim_start()));
        for phrase in phrases(&source) {
            // Names, and what a log would say.
            if ["Fenlo", "{}: {}", "{} {}"].iter().any(|p| phrase.starts_with(p)) && phrase.len() < 12 {
                continue;
            }
            assert!(knows(&phrase), "no Spanish for ‘{phrase}’");
        }
        for kind in LineKind::ALL {
            assert!(knows(fenlo_words::section(kind)), "{kind:?}");
        }
        for entry in ENTRIES {
            assert_ne!(Lang::Es.legend(entry), Lang::En.legend(entry));
        }
    }

    #[test]
    fn a_name_has_its_spanish_in_one_place() {
        let phrases = include_str!("es.csv");
        for (english, spanish) in pairs().filter(|p| p.0.starts_with(char::is_uppercase)) {
            assert!(
                !phrases.contains(&format!("\n{english};")),
                "{english} stands in the table of terms too"
            );
            assert_eq!(SPANISH[english], spanish);
        }
    }

    #[test]
    fn labels_of_the_catalogue_and_of_every_line_have_their_spanish() {
        let stems = |label: &str| {
            let figures = label.find(|c: char| c.is_ascii_digit()).unwrap_or(label.len());
            knows(label) || knows(label[..figures].trim_end())
        };
        let c = Catalogue::builtin();
        let labels = c
            .fittings
            .iter()
            .map(|f| &f.label)
            .chain(c.parts.iter().map(|p| &p.label))
            .chain(c.devices.iter().map(|d| &d.label))
            .chain(c.regulators.iter().map(|r| &r.label))
            .chain(c.nozzles.iter().map(|n| &n.label));
        for label in labels {
            assert!(stems(label), "no Spanish for ‘{label}’");
        }
        for name in ["corner-plot", "veterinary-clinic", "bowls-green", "courtyard"] {
            let path = format!("{}/../web/demo/{name}.json", env!("CARGO_MANIFEST_DIR"));
            let bytes = std::fs::read(path).unwrap_or_default();
            let job = fenlo_formats::read_job(&bytes).unwrap_or_else(|e| panic!("{name}: {e}"));
            let job = Job::new(job.into_plan());
            for line in takeoff(&job, &assess(&job)).lines {
                let label = fenlo_words::part_label(&line, &job);
                assert!(stems(&label), "no Spanish for ‘{label}’");
            }
        }
    }

    #[test]
    fn fonts_have_every_character_of_both_languages() {
        let words =
            include_str!("es.csv").to_owned() + include_str!("packet/steps.rs") + include_str!("quote.rs");
        for c in words.chars().chain("¼½¾⅛⅜⅝⅞′″→☐×·°".chars()).filter(|c| !c.is_control())
        {
            assert!(covered(c), "no glyph for {c:?} (U+{:04X})", c as u32);
        }
        assert!(!covered('芝'));
    }

    #[test]
    fn figures_take_their_places_in_a_phrase() {
        let said = Lang::Es.with("Date {}; valid until {}.", &["2026-05-01", "2026-05-31"]);
        assert_eq!(said, "Fecha: 2026-05-01; vigente hasta: 2026-05-31.");
        assert_eq!(Lang::Es.label("PVC elbow 45°"), "Codo de PVC 45°");
        assert_eq!(Lang::Es.label("Spray 12 ft"), "Difusor 12 ft");
    }
}
