//! What stands round every page of a job: its name, saved state, undo, and the rail of steps.

use crate::assessed::Assessed;
use askama::Template;
use fenlo_core::findings::Severity;

/// Screens of a job, in the order of the work.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Screen {
    Details,
    Water,
    Ground,
    Heads,
    /// Kinds of head side by side: belongs to Heads.
    Layout,
    /// Nozzles: belongs to Heads.
    Catalogue,
    Valves,
    Pressure,
}

impl Screen {
    const STEPS: [Self; 5] = [
        Self::Water,
        Self::Ground,
        Self::Heads,
        Self::Valves,
        Self::Pressure,
    ];

    pub fn name(self) -> &'static str {
        match self {
            Self::Details => "Details",
            Self::Water => "Water",
            Self::Ground => "Ground",
            Self::Heads => "Heads",
            Self::Layout => "Kinds of head",
            Self::Catalogue => "Nozzles",
            Self::Valves => "Valves",
            Self::Pressure => "Pressure",
        }
    }

    fn path(self) -> &'static str {
        match self {
            Self::Details => "details",
            Self::Water => "water",
            Self::Ground => "ground",
            Self::Heads => "heads",
            Self::Layout => "layout",
            Self::Catalogue => "catalogue",
            Self::Valves => "valves",
            Self::Pressure => "pressure",
        }
    }
}

/// Where somebody is: a screen and what is picked on it, written `valves:v3`.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Here {
    pub screen: Screen,
    pub pick: Option<String>,
}

impl Here {
    pub fn at(screen: Screen, pick: Option<String>) -> Self {
        Self { screen, pick }
    }

    /// Anything else is the first step.
    pub fn parse(text: &str) -> Self {
        let (screen, pick) = text
            .split_once(':')
            .map_or((text, None), |(s, p)| (s, Some(p.to_owned())));
        let screen = [Screen::Details, Screen::Layout, Screen::Catalogue]
            .iter()
            .chain(&Screen::STEPS)
            .find(|s| s.path() == screen);
        Self {
            screen: screen.copied().unwrap_or(Screen::Water),
            pick,
        }
    }

    pub fn word(&self) -> String {
        match &self.pick {
            Some(pick) => format!("{}:{pick}", self.screen.path()),
            None => self.screen.path().to_owned(),
        }
    }
}

/// The parts round a page.
pub struct Shell<'a> {
    known: &'a Assessed,
    here: &'a Here,
    pub id: i64,
    pub name: &'a str,
    pub step: &'static str,
}

#[derive(Template)]
#[template(path = "parts/status.html")]
struct Status {
    seq: i64,
    saved: &'static str,
}

#[derive(Template)]
#[template(path = "parts/undo.html")]
struct Undo<'a> {
    id: i64,
    here: String,
    undo: &'a Option<String>,
    redo: &'a Option<String>,
}

#[derive(Template)]
#[template(path = "parts/rail.html")]
struct Rail {
    steps: Vec<Step>,
}

struct Step {
    name: &'static str,
    href: String,
    here: bool,
    state: &'static str,
    mark: &'static str,
    says: &'static str,
}

impl<'a> Shell<'a> {
    pub fn new(known: &'a Assessed, here: &'a Here) -> Self {
        Self {
            known,
            here,
            id: known.open.id,
            name: &known.open.job.name,
            step: here.screen.name(),
        }
    }

    pub fn status_html(&self) -> askama::Result<String> {
        let seq = self.known.open.seq;
        Status {
            seq,
            saved: if seq == 0 { "" } else { "saved" },
        }
        .render()
    }

    pub fn undo_html(&self) -> askama::Result<String> {
        Undo {
            id: self.id,
            here: self.here.word(),
            undo: &self.known.open.undo,
            redo: &self.known.open.redo,
        }
        .render()
    }

    pub fn rail_html(&self) -> askama::Result<String> {
        let steps = Screen::STEPS
            .into_iter()
            .map(|screen| {
                let (state, mark, says) = self.state_of(screen);
                Step {
                    name: screen.name(),
                    href: format!("/jobs/{}/{}", self.id, screen.path()),
                    here: screen == self.here.screen
                        || (screen == Screen::Heads
                            && matches!(self.here.screen, Screen::Layout | Screen::Catalogue)),
                    state,
                    mark,
                    says,
                }
            })
            .collect();
        Rail { steps }.render()
    }

    /// A step is done, open, or has something that stops.
    fn state_of(&self, screen: Screen) -> (&'static str, &'static str, &'static str) {
        let (plan, a) = (self.known.job(), &self.known.assessment);
        let worst = |findings: &mut dyn Iterator<Item = &fenlo_core::findings::Finding>| {
            findings.map(|f| f.severity).min()
        };
        let water = worst(&mut a.supplies.iter().flat_map(|s| &s.findings));
        let zones = worst(&mut a.zones.iter().flat_map(|z| &z.findings));
        let (stop, done) = match screen {
            Screen::Details => (false, true),
            Screen::Water => (
                water == Some(Severity::Stop) && plan.supplies.iter().any(|s| !s.readings.is_empty()),
                a.supplies.iter().all(|s| s.design.flow.is_some()),
            ),
            Screen::Ground => (false, plan.site.areas().next().is_some()),
            Screen::Heads | Screen::Layout | Screen::Catalogue => (false, !plan.groups.is_empty()),
            Screen::Valves => (a.unassigned > 0, !plan.valves.is_empty() && a.unassigned == 0),
            Screen::Pressure => (
                zones == Some(Severity::Stop),
                !plan.valves.is_empty() && zones.is_none_or(|s| s == Severity::Watch),
            ),
        };
        if stop {
            ("stop", "!", "has something that stops")
        } else if done {
            ("done", "✓", "done")
        } else {
            ("open", "", "open")
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_place_is_read_back_as_written_and_nonsense_is_the_first_step() {
        for here in [
            Here::at(Screen::Valves, Some("v3".into())),
            Here::at(Screen::Details, None),
            Here::at(Screen::Pressure, Some("a:b".into())),
        ] {
            assert_eq!(Here::parse(&here.word()), here);
        }
        for nonsense in ["", "moon", "../etc", ":"] {
            assert_eq!(Here::parse(nonsense).screen, Screen::Water);
        }
    }
}
