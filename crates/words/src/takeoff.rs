//! Words for the list of parts: sections, units, why so many, what is missing.

use crate::names::nozzle;
use crate::said::{counted, one};
use crate::working::Working;
use fenlo_core::job::Job;
use fenlo_core::takeoff::{CutList, How, Line, LineKind, Missing, Reason, Unit};
use fenlo_core::units::{Length, UnitSystem};

/// The name of a section.
pub fn section(kind: LineKind) -> &'static str {
    match kind {
        LineKind::Pipe => "Pipe",
        LineKind::Tubing => "Drip tubing",
        LineKind::Fitting => "Fittings",
        LineKind::Head => "Heads",
        LineKind::Nozzle => "Nozzles",
        LineKind::Valve => "Valves",
        LineKind::Box => "Valve boxes",
        LineKind::Regulator => "Regulators",
        LineKind::Filter => "Filters",
        LineKind::Backflow => "Backflow preventer",
        LineKind::Wire => "Wire",
        LineKind::Controller => "Controller",
        LineKind::Drip => "Drip parts",
        LineKind::Sundry => "Miscellaneous",
    }
}

/// What a quantity counts, one or several.
pub fn unit(unit: &Unit, n: f64) -> String {
    let (one, many) = match unit {
        Unit::Each => return String::new(),
        Unit::Stick => ("stick", "sticks"),
        Unit::Coil => ("coil", "coils"),
        Unit::Roll => ("roll", "rolls"),
        Unit::Pint => ("pint", "pints"),
        Unit::Bag => ("bag", "bags"),
        Unit::Written(word) => return word.clone(),
    };
    if n == 1.0 { one } else { many }.to_owned()
}

/// A quantity without needless digits.
pub fn quantity(n: f64) -> String {
    if (n - n.round()).abs() < 1e-6 {
        format!("{n:.0}")
    } else {
        format!("{n:.2}").trim_end_matches('0').to_owned()
    }
}

/// What a line is called, without its size: nozzles and emitters by the units of the job, as everywhere.
pub fn part_label(line: &Line, job: &Job) -> String {
    let mut nozzles = job.catalogue().nozzles.iter();
    let known = match line.kind {
        LineKind::Head | LineKind::Nozzle | LineKind::Drip | LineKind::Tubing => {
            nozzles.find(|n| n.label == line.label)
        }
        _ => None,
    };
    known.map_or_else(|| line.label.clone(), |n| nozzle(n, job.units))
}

/// What is cut by a list, without its size: tube with emitters by the units of the job.
pub fn cut_label(list: &CutList, job: &Job) -> String {
    let known = job.catalogue().nozzles.iter().find(|n| n.label == list.label);
    known.map_or_else(|| list.label.clone(), |n| nozzle(n, job.units))
}

/// What a line is called, with its size.
pub fn part_name(line: &Line, job: &Job) -> String {
    let label = part_label(line, job);
    if line.size.is_empty() { label } else { format!("{label} {}", line.size) }
}

/// What is bought: `4 sticks of 20 ft`.
pub fn bought(line: &Line, system: UnitSystem) -> String {
    let n = quantity(line.quantity);
    let of = unit(&line.unit, line.quantity);
    match (line.piece, of.as_str()) {
        (Some(piece), of) => format!("{n} {of} of {}", whole(piece, system)),
        (None, "") => n,
        (None, of) => format!("{n} {of}"),
    }
}

/// A length of a stick or coil: whole feet, or metres.
fn whole(length: Length, system: UnitSystem) -> String {
    if system == UnitSystem::Us {
        return length.show_whole(system);
    }
    // Sticks of feet are 6.1 m long.
    let tenths = (length.m() * 10.0).round() / 10.0;
    format!("{tenths} m")
}

fn reason(reason: Reason) -> &'static str {
    match reason {
        Reason::Branch => "one at each branch; one more for every end beyond three",
        Reason::Crossing => "where four pipes meet",
        Reason::Turn => "where the pipe turns more than it can bend",
        Reason::SizeEnds => "where the pipe size changes",
        Reason::LongLeg => "one per extra stick in a straight section",
        Reason::InLine => "where two straight sections join",
        Reason::LastHead => "under the last head of a lateral",
        Reason::HeadOnTheWay => "under each head the lateral continues past",
        Reason::ThreadToPipe => "where pipe connects to a thread",
        Reason::SystemsMeet => "where two pipe types join (male and female adapter)",
        Reason::Manifold => "one per box with several valves, so a valve can be removed without cutting",
        Reason::ClosedEnd => "at closed pipe ends",
        Reason::Isolation => "manual shutoff on the mainline",
        Reason::Drain => "at low ends with automatic drains",
        Reason::Flush => "at flush points",
        Reason::Heads => "one per head",
        Reason::Swing => "one per head",
        Reason::Zone => "one for each of these zones",
        Reason::Assembly => "part of the valve assembly of these zones",
        Reason::EndsApart => "between assembly parts whose ends do not match",
        Reason::Connection => "at the point of connection",
        Reason::ValvesOfBox => "by number of valves and filters in each box",
        Reason::Strands => "strands of wire",
        Reason::WireEnds => "per valve, two splices each",
        Reason::Stations => "stations, including reserved ones",
        Reason::Emitters => "one per emitter",
        Reason::Pinned => "along tubing on the surface, more at bends",
        Reason::MicroTubes => "one per micro tubing line",
        Reason::Rings => "for emitter rings fed by one emitter",
        Reason::Holes => "spare for mispunched holes: 10%, at least five",
        Reason::Air => "at the high point of each subsurface part",
        Reason::GluedEnds => "cemented joints",
        Reason::TapedThreads => "taped threads, five turns each",
        Reason::Barbs => "one per barb; two from 1 1/4 in",
        Reason::BoxGravel => "under all valve boxes",
        Reason::MainTrench => "along mainline trench",
        Reason::Spare => "for reserved stations, capped",
    }
}

/// What a reason counts, with its unit: lengths are counted in feet.
fn of_reason(why: Reason, n: f64, u: UnitSystem) -> String {
    let what = match why {
        Reason::Pinned | Reason::MainTrench => return Length::from_ft(n).show(u),
        Reason::Stations => "station",
        Reason::WireEnds => "valve",
        Reason::GluedEnds => "joint",
        Reason::TapedThreads => "thread",
        Reason::Holes => "hole",
        Reason::BoxGravel => "bag",
        _ => "piece",
    };
    let n = (n * 100.0).round() / 100.0;
    format!("{} {what}{}", quantity(n), if n == 1.0 { "" } else { "s" })
}

/// Why so many of a line.
pub fn why_so_many(line: &Line, job: &Job) -> Vec<Working> {
    let units = job.units;
    let n = quantity(line.quantity);
    let percent = |share: f64| format!("{:.0}%", share * 100.0);
    line.how
        .iter()
        .map(|how| match how {
            How::Sticks { laid, pieces, stick, packed, bound, waste } => {
                let by_waste = (laid.m() * (1.0 + waste) / stick.m() - 1e-6).ceil().max(0.0);
                Working::new(
                    "larger of: sticks in the cut list; length plus waste ÷ stick length",
                    "cut list of this job; waste: company standard",
                )
                .with("length laid", laid.show_whole(units))
                .with("pieces", pieces.to_string())
                .with("stick length", whole(*stick, units))
                .with(
                    "cut list",
                    if packed == bound {
                        format!("{}; no way to use fewer", counted(*packed, "stick"))
                    } else {
                        format!("{}; at least {bound}", counted(*packed, "stick"))
                    },
                )
                .with(format!("with {} waste", percent(*waste)), quantity(by_waste))
                .gives(format!("{n} {}", one(line.quantity.round() as usize, "stick", "sticks")))
            }
            How::Coils { laid, pieces, bought, waste, priced } => Working::new(
                if *priced {
                    "cheapest coils that fit every piece without a splice and cover the length plus waste"
                } else {
                    "coils that fit every piece without a splice and cover the length plus waste"
                },
                "cut list of this job; waste: company standard",
            )
            .with("length laid", laid.show_whole(units))
            .with("pieces", pieces.to_string())
            .with(format!("with {} waste", percent(*waste)), (*laid * (1.0 + waste)).show_whole(units))
            .gives(format!("{} in coils", bought.show_whole(units))),
            How::Each(why) => Working::new(reason(*why), "counted on the plan").gives(n.clone()),
            How::Per { reason: why, count, per } => Working::new(
                format!("count ÷ count per item: {}", reason(*why)),
                "company standard or usual practice",
            )
            .with("count", of_reason(*why, *count, units))
            .with("per item", of_reason(*why, *per, units))
            .gives(n.clone()),
            How::ByHand { counted, note } => {
                let mut working = Working::new("entered by hand", "your entry").gives(n.clone());
                if *counted > 0.0 {
                    working = working.with("counted from the plan", quantity(*counted));
                }
                if !note.is_empty() {
                    working = working.with("note", note.clone());
                }
                working
            }
        })
        .collect()
}

/// What is not counted, and what would let it be.
pub fn not_counted(missing: &Missing, job: &Job) -> String {
    let valves = |ids: &[String]| {
        let names: Vec<String> = ids
            .iter()
            .map(|id| {
                let name = job.valve(id).map_or("", |v| v.name.as_str());
                format!("{} ({name})", job.valve_number(id))
            })
            .collect();
        format!("{} {}", one(ids.len(), "valve", "valves"), names.join(", "))
    };
    match missing {
        Missing::Wire => {
            "Wire is not included. Draw the controller and the mainline to have it measured.".into()
        }
        Missing::WireTo(ids) => {
            format!(
                "Wire to {} is not included: no mainline reaches {}.",
                valves(ids),
                one(ids.len(), "it", "them")
            )
        }
        Missing::DripNotLaid(ids) => {
            let names: Vec<&str> = ids.iter().filter_map(|id| Some(job.group(id)?.name.as_str())).collect();
            format!(
                "Drip in {} is not included: it cannot be laid as specified. See Heads for the reason.",
                names.join(", ")
            )
        }
        Missing::Main(ids) => {
            format!("Mainline to {} is not included: not drawn and no length entered.", valves(ids))
        }
        Missing::Unassigned(1) => "1 head has no valve. Its pipe is not included.".into(),
        Missing::Unassigned(n) => format!("{n} heads have no valve. Their pipe is not included."),
        Missing::Straight(ids) => format!(
            "{} of {} not drawn. {} counted as the shortest straight pipe, which is less than you will \
                install.",
            one(ids.len(), "Lateral", "Laterals"),
            valves(ids) + one(ids.len(), " is", " are"),
            one(ids.len(), "It is", "They are")
        ),
    }
}
