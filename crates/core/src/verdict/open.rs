use super::{Entry, Subject};
use crate::assess::Assessment;
use crate::findings::{Check, Finding, Severity};
use crate::job::Job;
use crate::plan::AssemblyPlace;
use crate::takeoff::{Missing, Takeoff};
use crate::zone::ZoneFault;

/// What is not planned yet, and what could not be worked out.
pub(super) fn entries(job: &Job, known: &Assessment, taken: &Takeoff) -> Vec<Entry> {
    let mut all = Vec::new();
    let mut put = |of: Subject, severity: Severity, check: Check| {
        all.push(Entry { of, finding: Finding::new(severity, check) });
    };
    for (thing, area) in job.site.areas() {
        let watered = job.groups.iter().any(|g| g.area.as_deref() == Some(&thing.id) && g.count() > 0);
        if !watered && !area.later {
            let check = Check::AreaEmpty { name: thing.title().to_owned() };
            put(Subject::Area(thing.id.clone()), Severity::Open, check);
        }
    }
    if known.unassigned > 0 {
        put(Subject::Job, Severity::Open, Check::HeadsWithoutValve { heads: known.unassigned });
    }
    for zone in &known.zones {
        let of = Subject::Valve(zone.valve.clone());
        match &zone.zone {
            Ok(_) => {}
            Err(ZoneFault::Empty) => put(of, Severity::Open, Check::ValveWithoutHeads {}),
            // Its connection says so already.
            Err(ZoneFault::Water(_)) => {}
            Err(why) => put(of, Severity::Stop, Check::ZoneUnsolved { why: why.clone() }),
        }
    }
    for missing in &taken.missing {
        match missing {
            Missing::Main(valves) => {
                for valve in valves {
                    put(Subject::Valve(valve.clone()), Severity::Open, Check::ValveWithoutMain {});
                }
            }
            Missing::Straight(valves) => {
                // From a hose bib tube lies on the ground, as it is unrolled.
                let in_box =
                    |id: &&String| job.valve(id).is_some_and(|v| v.assembly.stands == AssemblyPlace::Box);
                for valve in valves.iter().filter(in_box) {
                    put(Subject::Valve(valve.clone()), Severity::Open, Check::ValveWithoutLateral {});
                }
            }
            Missing::Wire => put(Subject::Job, Severity::Open, Check::WireNotCounted { valves: None }),
            Missing::WireTo(valves) => {
                put(Subject::Job, Severity::Open, Check::WireNotCounted { valves: Some(valves.len()) });
            }
            // Told as heads without a valve, and as zones that can't be solved.
            Missing::Unassigned(_) | Missing::DripNotLaid(_) => {}
        }
    }
    if !job.valves.is_empty() && job.watering.climate.is_none() {
        put(Subject::Job, Severity::Open, Check::NoClimate {});
    }
    all
}
