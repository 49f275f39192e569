//! How each step is measured, what words mean, and what trouble looks like: short, and in the units of
//! whoever reads it.

use crate::names::either;
use fenlo_core::steps::Step;
use fenlo_core::units::UnitSystem;

/// How a step is measured on the site.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct HowTo {
    /// The step.
    pub step: Step,
    /// What is measured.
    pub title: &'static str,
    /// One thing after the other.
    pub lines: Vec<&'static str>,
    /// What can hurt somebody, or defers to the code.
    pub caution: &'static str,
}

/// How a step is measured.
pub fn how_to(step: Step, u: UnitSystem) -> HowTo {
    let (title, lines, caution) = match step {
        Step::Water => (
            "Take two gauge readings at one hose bib",
            vec![
                "Screw the gauge onto a hose bib near the point of connection. Shut off all water indoors \
                    and out.",
                "Open the hose bib fully. The gauge now shows static pressure. Repeat at the hour you will \
                    water, on several days, and use the lowest reading.",
                "Open a second outlet into a bucket of known size, time the fill, and read the gauge while \
                    the water runs. That is the working pressure at that flow.",
                either(
                    u,
                    "Read the meter size off its body (5/8, 3/4, 1 in). For the service line, wrap a strip \
                        of paper around the pipe and divide its length by 3.14 to get the outside \
                        diameter, then look up the nominal size for that material.",
                    "Read the meter size off its body. For the service line, wrap a strip of paper around \
                        the pipe and divide its length by 3.14 to get the outside diameter, then look up \
                        the nominal size for that material.",
                ),
                "Record where the gauge was. Losses upstream of the gauge are already in the reading.",
            ],
            either(
                u,
                "Above 80 psi, plumbing codes commonly require a pressure-reducing valve on the building. \
                    Local code decides which backflow preventer to use.",
                "Above 550 kPa (5.5 bar), plumbing codes commonly require a pressure-reducing valve on the \
                    building. Local code decides which backflow preventer to use.",
            ),
        ),
        Step::Ground => (
            "Locate a corner with two tapes",
            vec![
                "Start with the building. Measure every wall once around and draw it.",
                "For a point out in the lawn, run a tape from each of two building corners to the point \
                    and read both. The Two tapes tool places the point.",
                "For a curve, measure the straight line between its ends and how far the curve is from it \
                    at the middle.",
                either(
                    u,
                    "For elevations, stretch a string with a line level between two points and measure \
                        down at each end. 2.3 ft of drop equals 1 psi.",
                    "For elevations, stretch a string with a line level between two points and measure \
                        down at each end. 1 m of drop equals 9.8 kPa.",
                ),
                "Mark the meter, hose bibs, controller and power, and a spot for each valve box that will \
                    still be reachable in ten years.",
            ],
            "Call for utility locates and wait for the marks before any digging. Draw each line as No-dig.",
        ),
        Step::Heads => (
            "Measure radius and read the nozzle",
            vec![
                "Run one head of this type. Walk out to where the last drops land and measure back to the \
                    head.",
                "Space heads head to head: corners first, then edges, then the interior.",
                "On an existing system, read the number on top of the nozzle. If it is worn off, identify \
                    the nozzle by flow and radius.",
                "Note the wind direction at the hour you will water.",
            ],
            "Water on walks and driveways is a slip hazard. Stop arcs at the pavement.",
        ),
        Step::Valves => (
            "What can share a valve",
            vec![
                "Never put sprinklers and drip on one valve, or sprays and rotors.",
                "Give sun and shade, lawn and beds, and the top and bottom of a slope separate valves.",
                "Before adding a valve, count the free controller stations and spare wires.",
                "Leave room in the box to unscrew the filter bowl.",
            ],
            "Shut off the water and relieve pressure before opening a valve body.",
        ),
        Step::Pressure => (
            "Measure pressure at the nozzle",
            vec![
                "Run the zone. At a rotor, hold a pitot gauge in the stream at the nozzle. At a spray, fit \
                    a tee with a gauge under the nozzle.",
                "Read the first, the farthest and the highest head. Time one minute at the meter while the \
                    zone runs.",
                "Under the nozzle of a pressure-regulated body the gauge shows regulated pressure. Record \
                    that with the reading.",
                either(
                    u,
                    "Within 3 psi or 10% of the calculated value is fine. Pressure low and flow high: \
                        leak. Pressure high and flow low: clog.",
                    "Within 20 kPa or 10% of the calculated value is fine. Pressure low and flow high: \
                        leak. Pressure high and flow low: clog.",
                ),
            ],
            "Never stand over a fitting under test. Drip fittings come apart above their rated pressure: \
                install the regulator first.",
        ),
        Step::Times => (
            "Measure precipitation rate, uniformity and infiltration",
            vec![
                "Set identical straight-sided catch cans on an even grid between heads. Run the zone for a \
                    known time and measure the depth in each can.",
                "Average depth per hour is the precipitation rate. Average of the lowest quarter divided \
                    by the overall average is the distribution uniformity (DU).",
                "Note how long it takes before water runs off: that is the longest cycle. After an hour, \
                    dig to see how deep the water went.",
                "Ask the water supplier which days and hours are allowed.",
            ],
            "Line-voltage wiring is for a licensed electrician. The water supplier sets the watering days.",
        ),
        Step::Parts => (
            "Identify pipe and thread",
            vec![
                "Wrap a strip of paper around the pipe, mark the overlap, measure it and divide by 3.14: \
                    that is the outside diameter. Match it on the full-size sheet.",
                "Read the print line on the pipe: material, nominal size, class or schedule.",
                "Check threads against the sheet too: male or female, pipe thread or hose thread.",
                "Count what is on the truck before ordering. Pipe is sold in full sticks and coils.",
            ],
            "Solvent cement: ventilate, no open flame. Cutters and punches: wear gloves and cut away from \
                your hand.",
        ),
    };
    HowTo { step, title, lines, caution }
}

/// A word of the work, or a sign of trouble: what it is called, what it means or comes from, where to look.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Entry {
    /// The word or the sign.
    pub word: &'static str,
    /// What it means; for a sign its likely causes, the first first.
    pub means: &'static str,
    /// For a sign what tells the causes apart, and the cure; empty for a word.
    pub cure: &'static str,
    /// Everyday words that people search it by; not shown.
    pub also: &'static str,
}

impl Entry {
    const fn also(self, words: &'static str) -> Self {
        Self { also: words, ..self }
    }
}

const fn sign(word: &'static str, means: &'static str, cure: &'static str) -> Entry {
    Entry { word, means, cure, also: "" }
}

const fn word(word: &'static str, means: &'static str) -> Entry {
    sign(word, means, "")
}

/// Signs of trouble, then words.
pub const ENTRIES: [Entry; 46] = [
    sign(
        "Fogging or misting at the heads",
        "Pressure above the nozzle's range, or the wrong nozzle.",
        "Measure nozzle pressure with the zone running. Add the regulator recommended on the Pressure page.",
    )
    .also("fog mist drift"),
    sign(
        "Weak spray at the end of the line",
        "Too many heads, lateral too small or too long, a valve not fully open, or a leak.",
        "Compare meter flow with the sum of the nozzle flows. Equal: friction loss. Higher: leak. Lower: \
            blockage upstream. Split the zone, upsize the first section, or feed the lateral in the \
            middle.",
    )
    .also("weak last head low pressure"),
    sign(
        "Heads do not pop up",
        "Low pressure, valve not fully open, or grit in the wiper seal.",
        "Measure pressure at the valve outlet to find out which.",
    ),
    sign(
        "Heads pop up, then drop",
        "The supply drops off over time: well, tank, pump, or another user.",
        "Log pressure for five minutes. Use smaller zones or other hours.",
    ),
    sign(
        "Dry ring around the head (donut)",
        "Pressure too low, nozzle clogged, or head set too deep.",
        "Measure pressure. Raise or clean the head, or take heads off the valve.",
    ),
    sign(
        "Puddles, runoff",
        "Precipitation rate above the soil's intake rate, run time too long, or slope.",
        "Catch-can test. Use cycle and soak or lower-rate nozzles.",
    )
    .also("puddle wet spot"),
    sign(
        "Water on walls or pavement",
        "Wrong arc or radius, tilted head, wind, or high pressure.",
        "Watch it run. Adjust arc and radius, move the head, or regulate pressure.",
    ),
    sign(
        "Valve does not close",
        "Debris under the diaphragm, flow control wide open, bleed screw open, or a wire keeping it \
            energized.",
        "Close the flow control by hand, then pull a solenoid wire to see whether it is electrical or mechanical. \
            Flush, adjust or repair.",
    )
    .also("stuck open"),
    sign(
        "Valve does not open",
        "No voltage, failed solenoid, flow control closed, or valve installed backward.",
        "Measure voltage and resistance at the solenoid.",
    ),
    sign(
        "Drip fittings come apart",
        "Pressure above their rating (no regulator, or one that is not working), wrong tubing diameter, or \
            cement on a barb.",
        "Measure with the end closed. Regulate at the valve; clamps do not fix it.",
    )
    .also("blow off pop off"),
    sign(
        "Some emitters dry",
        "Clogged (about one in a hundred is normal) or kinked tubing.",
        "Open one and check the filter. Clean the filter and flush the line.",
    ),
    sign(
        "First plants soaked, last plants dry",
        "Emitters without pressure compensation, row too long, or slope.",
        "Measure at both ends. Use pressure-compensating emitters, feed both ends, or split the row.",
    ),
    sign(
        "Regulator has no effect",
        "Inlet pressure too close to its setting, installed backward, or flow outside its range.",
        "Measure upstream and downstream. Lower the setting, choose another model, or turn it around.",
    ),
    sign(
        "Rotators do not turn",
        "Pressure too low, or grit.",
        "Measure pressure. Restore pressure or flush the nozzle.",
    )
    .also("stuck"),
    sign(
        "Pump cycles on and off",
        "The zone uses less than the pump's minimum flow.",
        "Count starts over ten minutes. Combine zones or fit a larger pressure tank.",
    ),
    sign(
        "Low head drains after shutoff",
        "Pipe above it drains through it, and the head has no check valve.",
        "Watch after the valve closes. Fit a body with a check valve.",
    )
    .also("drain drip"),
    sign(
        "More water used than planned, bill too high",
        "Leak, high pressure, changed run times, or a broken head.",
        "Time one minute at the meter, zone by zone.",
    ),
    word("Static pressure", "Pressure with no water flowing."),
    word(
        "Working pressure (also running or dynamic pressure)",
        "Pressure while a known flow runs. Together with static pressure it gives the pressure available \
            at any flow.",
    ),
    word(
        "Design flow",
        "The most flow one zone may use: the smallest of the limits from meter, service line, pressure and \
            pump, less a margin.",
    ),
    word("Station", "One controller output, which runs one zone valve."),
    word(
        "Lateral",
        "Pipe downstream of the zone valve, under pressure only while the zone runs.",
    ),
    word(
        "Mainline",
        "Pipe from the point of connection to the zone valves, normally under pressure.",
    ),
    word("Manifold", "Zone valves side by side on one section of mainline."),
    word(
        "Precipitation rate",
        "Depth of water applied per hour over the area of a zone.",
    ),
    word(
        "Matched precipitation",
        "Flow is in proportion to arc, so a quarter circle applies the same depth \
            as a full circle.",
    ),
    word(
        "Head to head",
        "Spacing equal to the radius, so each head reaches the next.",
    ),
    word("Arc", "The part of the circle a head waters, in degrees."),
    word(
        "Distribution uniformity, DU",
        "Average of the driest quarter divided by the overall average. The lower it is, the longer a zone \
            must run to water the driest spots.",
    ),
    word(
        "Cycle and soak",
        "One run split into cycles with pauses so the water soaks in.",
    ),
    word(
        "ET, evapotranspiration",
        "Water lost from soil and plants to the air, as a depth.",
    ),
    word(
        "Pressure variation",
        "Highest minus lowest nozzle pressure on a valve, as a share of the rated \
            pressure.",
    ),
    word(
        "Pressure regulator",
        "Holds pressure at a set value. Fits in four places: at the point of connection (system \
            regulator), on the valve, in the line after the valve, or in each head body.",
    )
    .also("module preset reducer"),
    word(
        "Regulator headroom",
        "How far inlet pressure must be above the setting for the regulator to work.",
    ),
    word(
        "Check valve",
        "Keeps the line from draining through a low head after the valve closes.",
    ),
    word(
        "Backflow preventer",
        "Keeps irrigation water out of the drinking water. Local code sets the type and the installation \
            height.",
    ),
    word(
        "Compensating emitter",
        "Gives the same flow over a wide pressure range.",
    ),
    word("Dripline", "Tubing with emitters built in at even spacing."),
    word(
        "Flush valve",
        "At the end of a drip zone: opens briefly at each start to flush out sediment.",
    ),
    word(
        "Sleeve",
        "Larger pipe under pavement, so pipe or wire can be pulled through later.",
    ),
    word(
        "Bucket test",
        "Open the hose bib fully, fill a bucket of known size and time it: volume ÷ time is the flow with \
            all pressure used up.",
    ),
    word(
        "Thread tape",
        "Seals tapered pipe threads: 4 to 5 turns in the direction of tightening. Not used on hose threads \
            with a washer, nor on drip fittings.",
    ),
    word(
        "Water hammer, surge",
        "Pressure wave when flow stops suddenly. The faster the water and the faster the valve closes, the \
            higher it gets.",
    ),
    word(
        "Root zone",
        "Depth of soil that roots draw water from. Deep roots need long runs with days between; shallow \
            roots need short, frequent runs.",
    ),
    word(
        "Staggered emitters",
        "Emitters of one row opposite the gaps of the next, so wetted spots overlap.",
    )
    .also("stagger triangular spacing"),
    word(
        "Filter mesh",
        "Openings per inch of a screen: the higher the number, the finer the filter. Drip commonly needs \
            150 to 200 mesh; check the emitter data.",
    ),
];

/// Entries that hold every word somebody looks for, signs first; all of them where nothing is.
pub fn found(asked: &str) -> Vec<&'static Entry> {
    let words: Vec<String> = asked.split_whitespace().map(str::to_lowercase).collect();
    let holds = |e: &&Entry| {
        let text = format!("{} {} {} {}", e.word, e.means, e.cure, e.also).to_lowercase();
        words.iter().all(|w| text.contains(w.as_str()))
    };
    let mut found: Vec<&Entry> = ENTRIES.iter().filter(holds).collect();
    // What is called so comes before what only mentions it.
    let called = |e: &&Entry| {
        let name = format!("{} {}", e.word, e.also).to_lowercase();
        !words.iter().all(|w| name.contains(w.as_str()))
    };
    found.sort_by_key(called);
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_step_has_its_measuring_in_the_units_of_the_reader() {
        for step in Step::ALL {
            for u in UnitSystem::ALL {
                let how = how_to(step, u);
                assert!(how.lines.len() >= 4 && !how.caution.is_empty(), "{step:?}");
                let text = format!("{} {}", how.lines.join(" "), how.caution);
                assert!(!u.is_metric() || !text.contains("psi"), "{step:?}: {text}");
                assert!(u.is_metric() || !text.contains("kPa"), "{step:?}: {text}");
            }
        }
    }

    #[test]
    fn signs_and_words_are_found_by_what_people_call_them() {
        let first = |asked: &str| found(asked)[0].word;
        assert_eq!(first("fog"), "Fogging or misting at the heads");
        assert_eq!(first("MIST"), "Fogging or misting at the heads");
        assert_eq!(first("blow off"), "Drip fittings come apart");
        assert_eq!(first("du"), "Distribution uniformity, DU");
        assert_eq!(first("regulator effect"), "Regulator has no effect");
        assert!(found("zebra").is_empty());
        // Words that people type, whatever the entries are called.
        for word in [
            "fog", "mist", "blow off", "puddle", "weak", "bucket", "tape", "hammer", "root", "stagger",
            "mesh", "stuck", "drain",
        ] {
            let first = found(word).first().map(|e| format!("{} {}", e.word, e.also).to_lowercase());
            assert!(first.is_some_and(|name| name.contains(word)), "‘{word}’ finds nothing of its own");
        }
        assert_eq!(found("  ").len(), ENTRIES.len());
        assert!(ENTRIES.iter().filter(|e| !e.cure.is_empty()).count() >= 17, "the whole trouble table");
    }
}
