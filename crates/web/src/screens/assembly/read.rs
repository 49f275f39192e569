//! What was done to an assembly.

use crate::assessed::Assessed;
use crate::error::AppError;
use crate::fields::Fields;
use fenlo_core::assembly::{Start, Train};
use fenlo_core::catalogue::Seal;
use fenlo_core::plan::{AssemblyPart, Edit, PartIs, Valve};
use fenlo_core::units::{Flow, Length};

pub const FIELDS: [&str; 7] = ["start", "part", "seal", "set", "height", "room", "stands"];

pub fn changed(known: &Assessed, f: &mut Fields) -> Result<Edit, AppError> {
    let job = known.job();
    let id = f.text("valve");
    let Some(valve) = job.valve(&id) else {
        return Err(AppError::Conflict("this valve was deleted".into()));
    };
    let mut next = valve.clone();
    // What was not listed before is listed as it stands.
    if !Train::is_listed(&valve.assembly) {
        let train = Train::of(job.catalogue(), valve);
        next.assembly.parts = train.members.into_iter().map(|m| AssemblyPart::new(m.is)).collect();
    }
    let op = f.text("op");
    let count = next.assembly.parts.len();
    let at = f.count("at") as usize;
    if matches!(op.as_str(), "up" | "down" | "remove" | "turn" | "seal" | "set") && at >= count {
        return Err(AppError::Conflict("this part was removed".into()));
    }
    match op.as_str() {
        "start" => next = begun(known, valve, f)?,
        "add" => {
            let part = f.text("part");
            let is = match part.as_str() {
                "own-valve" => PartIs::Valve,
                "own-filter" => PartIs::Filter,
                "own-regulator" => PartIs::Regulator,
                id if job.catalogue().part(id).is_some() => PartIs::Part(id.to_owned()),
                _ => return f.stop("choose a part from the list"),
            };
            let before = f.get("before").parse::<usize>().unwrap_or(count).min(count);
            next.assembly.parts.insert(before, AssemblyPart::new(is));
        }
        "up" if at > 0 => next.assembly.parts.swap(at, at - 1),
        "down" if at + 1 < count => next.assembly.parts.swap(at, at + 1),
        "up" | "down" => return f.stop("it is already at the end"),
        "remove" => {
            let gone = next.assembly.parts.remove(at);
            if gone.is == PartIs::Valve {
                return f.stop("a zone needs a valve. Choose another valve on Valves");
            }
            if gone.is == PartIs::Filter {
                next.filter = None;
            }
            if gone.is == PartIs::Regulator {
                next.regulation = fenlo_core::plan::Regulation::None;
            }
        }
        "turn" => next.assembly.parts[at].reversed ^= true,
        "seal" => {
            let seal = f.text("seal");
            next.assembly.parts[at].sealed = match seal.as_str() {
                "" => None,
                "tape" => Some(Seal::Tape),
                "washer" => Some(Seal::Washer),
                "nothing" => Some(Seal::Nothing),
                "cement" => Some(Seal::Cement),
                _ => return f.stop("choose one from the list"),
            };
        }
        "set" => next.assembly.parts[at].set = f.pressure_if_any("set"),
        "place" => {
            next.assembly.stands = f.choice("stands");
            next.assembly.height = f.length_if_any("height");
            next.assembly.room = f.length_if_any("room");
            next.assembly.supported = f.ticked("supported");
        }
        "plain" => next.assembly = Default::default(),
        _ => return f.stop("unknown action"),
    }
    if f.errors.is_empty() { Ok(Edit::put(next)) } else { Err(AppError::Faults(Vec::new())) }
}

/// A usual assembly for what the zone takes, its breaker above its highest outlet.
fn begun(known: &Assessed, valve: &Valve, f: &mut Fields) -> Result<Valve, AppError> {
    let word = f.text("start");
    let Some(start) = Start::ALL.into_iter().find(|s| s.word() == word) else {
        return f.stop("choose one from the list");
    };
    let zone = known.assessment.zone(&valve.id).and_then(|z| z.zone.as_ref().ok());
    let flow = zone.map_or(Flow::ZERO, |z| z.nominal_flow);
    let top = zone.map_or(Length::ZERO, |z| z.top_over_valve);
    Ok(start.fit(valve, flow, top))
}
