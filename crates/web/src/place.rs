//! The screens of a job, as a table, and where on them somebody is.

use fenlo_core::steps::Step;

/// A screen of a job. What answers at its addresses is in `screens`, which must name every one.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Screen {
    Details,
    Water,
    Ground,
    Heads,
    /// Kinds of head side by side.
    Layout,
    /// Nozzles.
    Catalogue,
    Valves,
    /// The parts of one zone, in order.
    Assembly,
    Pressure,
    /// How long, how often, when.
    Times,
    /// What is bought.
    Parts,
    /// What the customer pays.
    Quote,
}

/// What the page round a screen needs to know of it.
pub struct ScreenRow {
    pub screen: Screen,
    pub title: &'static str,
    /// Last part of its address.
    pub path: &'static str,
    /// The step of the rail it belongs to.
    pub step: Option<Step>,
    /// Brings it up from every page of the job; with one it stands in the rail.
    pub key: Option<char>,
}

const fn row(
    screen: Screen,
    title: &'static str,
    path: &'static str,
    step: Option<Step>,
    key: Option<char>,
) -> ScreenRow {
    ScreenRow { screen, title, path, step, key }
}

/// In the order of the work.
#[rustfmt::skip]
pub static SCREENS: [ScreenRow; 12] = [
    row(Screen::Details,   "Details",       "details",   None,                 None),
    row(Screen::Water,     "Water",         "water",     Some(Step::Water),    Some('1')),
    row(Screen::Ground,    "Site plan",        "ground",    Some(Step::Ground),   Some('2')),
    row(Screen::Heads,     "Heads",         "heads",     Some(Step::Heads),    Some('3')),
    row(Screen::Layout,    "Compare head types", "layout",    Some(Step::Heads),    None),
    row(Screen::Catalogue, "Nozzles",       "catalogue", Some(Step::Heads),    None),
    row(Screen::Valves,    "Valves",        "valves",    Some(Step::Valves),   Some('4')),
    row(Screen::Assembly,  "Valve assembly",      "assembly",  Some(Step::Valves),   None),
    row(Screen::Pressure,  "Pressure",      "pressure",  Some(Step::Pressure), Some('5')),
    row(Screen::Times,     "Run times",         "times",     Some(Step::Times),    Some('6')),
    row(Screen::Parts,     "Parts list",         "parts",     Some(Step::Parts),    Some('7')),
    row(Screen::Quote,     "Quote",         "quote",     Some(Step::Parts),    None),
];

impl Screen {
    pub fn row(self) -> &'static ScreenRow {
        &SCREENS[self as usize]
    }

    /// It shows nothing but the job: no history, no day, no work under way, no prices.
    pub fn is_of_the_job_alone(self) -> bool {
        match self {
            Self::Water | Self::Ground | Self::Heads | Self::Catalogue => true,
            Self::Valves | Self::Assembly | Self::Pressure | Self::Parts => true,
            Self::Details | Self::Layout | Self::Times | Self::Quote => false,
        }
    }

    /// The screen where a step is worked on.
    pub fn of(step: Step) -> &'static ScreenRow {
        let leads = |row: &&ScreenRow| row.step == Some(step) && row.key.is_some();
        SCREENS.iter().find(leads).unwrap_or(&SCREENS[1])
    }
}

/// Where somebody is: a screen and what is picked on it, written `valves:v3`.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Here {
    pub screen: Screen,
    pub pick: Option<String>,
}

impl Here {
    pub fn at(screen: Screen) -> Self {
        Self { screen, pick: None }
    }

    pub fn picked(screen: Screen, pick: impl Into<Option<String>>) -> Self {
        Self { screen, pick: pick.into() }
    }

    /// Anything else is the first step.
    pub fn parse(text: &str) -> Self {
        let (path, pick) = text.split_once(':').map_or((text, None), |(s, p)| (s, Some(p.to_owned())));
        let row = SCREENS.iter().find(|row| row.path == path);
        Self { screen: row.map_or(Screen::Water, |row| row.screen), pick }
    }

    pub fn word(&self) -> String {
        let path = self.screen.row().path;
        match &self.pick {
            Some(pick) => format!("{path}:{pick}"),
            None => path.to_owned(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_place_is_read_back_as_written_and_nonsense_is_the_first_step() {
        for here in [
            Here::picked(Screen::Valves, "v3".to_owned()),
            Here::at(Screen::Details),
            Here::picked(Screen::Pressure, "a:b".to_owned()),
        ] {
            assert_eq!(Here::parse(&here.word()), here);
        }
        for nonsense in ["", "moon", "../etc", ":"] {
            assert_eq!(Here::parse(nonsense).screen, Screen::Water);
        }
    }

    #[test]
    fn the_table_has_a_row_for_each_screen_in_its_place_and_every_step_has_a_screen() {
        for row in &SCREENS {
            assert_eq!(row.screen.row().path, row.path);
        }
        for step in Step::ALL {
            assert_eq!(Screen::of(step).step, Some(step));
        }
        let mut keys: Vec<char> = SCREENS.iter().filter_map(|row| row.key).collect();
        keys.dedup();
        assert_eq!(keys.len(), Step::ALL.len(), "a key brings up one screen");
    }
}
