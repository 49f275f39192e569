//! Words for the list of parts: sections, units, why so many, what is missing.

use crate::names::nozzle;
use crate::working::Working;
use fenlo_core::job::Job;
use fenlo_core::takeoff::{CutList, How, Line, LineKind, Missing, Reason, Unit};
use fenlo_core::units::{Length, UnitSystem};

/// The name of a section.
pub fn section(kind: LineKind) -> &'static str {
    match kind {
        LineKind::Pipe => "Pipe",
        LineKind::Tubing => "Drip tube",
        LineKind::Fitting => "Fittings",
        LineKind::Head => "Heads",
        LineKind::Nozzle => "Nozzles",
        LineKind::Valve => "Valves",
        LineKind::Box => "Boxes",
        LineKind::Regulator => "Regulators",
        LineKind::Filter => "Filters",
        LineKind::Backflow => "Backflow protection",
        LineKind::Wire => "Wire",
        LineKind::Controller => "Controller",
        LineKind::Drip => "Drip parts",
        LineKind::Sundry => "Sundries",
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
    if line.size.is_empty() {
        label
    } else {
        format!("{label} {}", line.size)
    }
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
        return format!("{:.0} ft", length.ft());
    }
    // Sticks of feet are 6.1 m long.
    let tenths = (length.m() * 10.0).round() / 10.0;
    format!("{tenths} m")
}

fn reason(reason: Reason) -> &'static str {
    match reason {
        Reason::Branch => "one where pipes branch; with more than three ends, one more for each",
        Reason::Crossing => "where four pipes meet",
        Reason::Turn => "where pipe turns more than it gives",
        Reason::SizeEnds => "where a larger size ends",
        Reason::LongLeg => "one for every length beyond the first of a straight leg",
        Reason::InLine => "where two straight legs follow one another",
        Reason::LastHead => "under the last head of a lateral",
        Reason::HeadOnTheWay => "under each head that the lateral goes on behind",
        Reason::ThreadToPipe => "where pipe begins at a thread",
        Reason::SystemsMeet => "where pipe of one kind meets another: a pair of threads",
        Reason::Manifold => "one for each box with several valves, so that they come out without a saw",
        Reason::ClosedEnd => "at closed ends",
        Reason::Isolation => "where the main is shut by hand",
        Reason::Drain => "at low ends that drain themselves",
        Reason::Flush => "where lines are flushed",
        Reason::Heads => "one for each head",
        Reason::Swing => "one under each head",
        Reason::Zone => "fitted to each of these zones",
        Reason::Assembly => "part of the assembly of these zones",
        Reason::EndsApart => "between parts of a zone whose ends do not fit by themselves",
        Reason::Connection => "part of the connection",
        Reason::ValvesOfBox => "by the valves that stand in each box, and whether they have filters",
        Reason::Strands => "strands of wire",
        Reason::WireEnds => "valves; two joints at each",
        Reason::Stations => "stations, with those kept back",
        Reason::Emitters => "one for each emitter at its plant",
        Reason::Pinned => "of tube on the ground; more where it bends",
        Reason::MicroTubes => "one for each micro tube",
        Reason::Rings => "for rings that one emitter feeds",
        Reason::Holes => "holes punched; one in ten goes wrong, at least five",
        Reason::Air => "at the highest point of each part below ground",
        Reason::GluedEnds => "glued ends",
        Reason::TapedThreads => "taped threads, five turns each",
        Reason::Barbs => "over each barb; two from 1 1/4 in",
        Reason::BoxGravel => "bags under all boxes",
        Reason::MainTrench => "of trench with mains",
        Reason::Spare => "for stations that come later, capped",
    }
}

/// Why so many of a line.
pub fn why_so_many(line: &Line, job: &Job) -> Vec<Working> {
    let units = job.units;
    let n = quantity(line.quantity);
    let percent = |share: f64| format!("{:.0} %", share * 100.0);
    line.how
        .iter()
        .map(|how| match how {
            How::Sticks {
                laid,
                pieces,
                stick,
                packed,
                bound,
                waste,
            } => {
                let by_waste = (laid.m() * (1.0 + waste) / stick.m() - 1e-6).ceil().max(0.0);
                Working::new(
                    "the larger of: sticks that all pieces are cut from; length with waste over a stick",
                    "cut list of this job (Martello and Toth 1990); waste is a house rule",
                )
                .with("laid", laid.show(units))
                .with("pieces", pieces.to_string())
                .with("a stick", whole(*stick, units))
                .with(
                    "cut from",
                    if packed == bound {
                        format!("{packed} sticks; fewer can't hold them")
                    } else {
                        format!("{packed} sticks; at least {bound}")
                    },
                )
                .with(format!("with {} waste", percent(*waste)), quantity(by_waste))
                .gives(format!("{n} sticks"))
            }
            How::Coils {
                laid,
                pieces,
                bought,
                waste,
                priced,
            } => Working::new(
                if *priced {
                    "the cheapest coils by price that hold every piece uncut, and the length with waste"
                } else {
                    "coils that hold every piece uncut, and the length with waste; long coils cost less by \
                        the foot"
                },
                "cut list of this job; waste is a house rule",
            )
            .with("laid", laid.show(units))
            .with("pieces", pieces.to_string())
            .with(
                format!("with {} waste", percent(*waste)),
                (*laid * (1.0 + waste)).show(units),
            )
            .gives(format!("{} in all coils", bought.show(units))),
            How::Each(why) => Working::new(reason(*why), "counted on the plan").gives(n.clone()),
            How::Per {
                reason: why,
                count,
                per,
            } => Working::new(
                format!("count / so many to one: {}", reason(*why)),
                "house rule or as the \
                    trade does it",
            )
            .with("count", quantity((count * 100.0).round() / 100.0))
            .with("to one", quantity((per * 100.0).round() / 100.0))
            .gives(n.clone()),
            How::ByHand { counted, note } => {
                let mut working = Working::new("as written by hand", "yours").gives(n.clone());
                if *counted > 0.0 {
                    working = working.with("the plan counts", quantity(*counted));
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
                format!("{} {name}", job.valve_number(id))
            })
            .collect();
        names.join(", ")
    };
    match missing {
        Missing::Wire => {
            "Wire is not counted: draw the controller and the main, and it is measured along them.".into()
        }
        Missing::WireTo(ids) => {
            format!(
                "Wire to valves {} is not counted: no main reaches them.",
                valves(ids)
            )
        }
        Missing::DripNotLaid(ids) => {
            let names: Vec<&str> = ids
                .iter()
                .filter_map(|id| Some(job.group(id)?.name.as_str()))
                .collect();
            format!(
                "Drip of {} is not counted: it can't be laid as it is wished. Heads says why.",
                names.join(", ")
            )
        }
        Missing::Main(ids) => format!(
            "Pipe to valves {} is not counted: neither drawn nor given as a length.",
            valves(ids)
        ),
        Missing::Unassigned(1) => "One head is on no valve: its pipe is not counted.".into(),
        Missing::Unassigned(n) => format!("{n} heads are on no valve: their pipe is not counted."),
        Missing::Straight(ids) => format!(
            "Laterals of valves {} are not drawn: counted by the shortest straight pipe, which no trench \
                will follow.",
            valves(ids)
        ),
    }
}
