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
            "Two gauge readings at one tap",
            vec![
                "Screw the gauge on an outside tap near the connection; nothing may run in house or garden.",
                "Open the tap fully: that is the static pressure. Come back at the hour you will water; the \
                    lowest of \
                 several days counts.",
                "Open a second outlet, let it run into a bucket of known size, time it, and read the gauge \
                    while it runs: \
                 that is the running pressure at that flow.",
                either(
                    u,
                    "Read the size off the meter (5/8, 3/4, 1 in) and the pipe that enters the house: a \
                        strip of paper round \
                     it, its length over 3.14.",
                    "Read the size off the meter and the pipe that enters the house: a strip of paper round \
                        it, its length \
                     over 3.14.",
                ),
                "Say where the gauge stood: parts before it are in the reading already.",
            ],
            either(
                u,
                "Over 80 psi codes commonly want a reducing valve on the building. The backflow device is \
                    the local code's \
                 choice.",
                "Over 550 kPa (5.5 bar) codes commonly want a reducing valve on the building. The backflow \
                    device is the \
                 local code's choice.",
            ),
        ),
        Step::Ground => (
            "A corner by two tapes",
            vec![
                "Begin with the house: draw it from its walls, measured once round.",
                "For a corner out on the lawn hold one tape to each of two corners of the house that you \
                    know, and read both \
                 where they cross. ‘Two tapes’ finds the point.",
                "For an arc measure its chord, and its rise in the middle of the chord.",
                either(
                    u,
                    "For heights hang a line level on a string between two points and measure down at each \
                        end: 2.3 ft of fall \
                     is 1 psi.",
                    "For heights hang a line level on a string between two points and measure down at each \
                        end: 1 m of fall is \
                     9.8 kPa.",
                ),
                "Mark meter, tap, controller, power, and where a valve box can still be reached in ten \
                    years' time.",
            ],
            "Have buried services located and marked before anything is dug; draw them as ‘Not to be dug’.",
        ),
        Step::Heads => (
            "How far a head throws, and what stands there",
            vec![
                "Run one head of the kind; walk out to where the last drops fall, and measure back to the \
                    head.",
                "Heads stand so that each throws to the next: in corners first, then along edges, then \
                    inside.",
                "On an old system read the nozzle: its number is on its top. Where it is worn off, flow and \
                    throw find it.",
                "Look where the wind comes from at the hour of watering.",
            ],
            "Water on walks and drives is a slip hazard: arcs end at the paving.",
        ),
        Step::Valves => (
            "What may run together",
            vec![
                "Sprinklers and drip never share a valve, sprays never with rotors.",
                "Sun and shade, lawn and beds, the top and the foot of a slope want valves of their own.",
                "Count stations of the controller and strands of wire before you add a valve.",
                "Leave room above a filter to unscrew its bowl.",
            ],
            "Shut the water off and relieve the pressure before a valve is opened.",
        ),
        Step::Pressure => (
            "What is left under the last nozzle",
            vec![
                "Run the zone. Hold a gauge with a small tube (a pitot) into the stream of a rotor, or \
                    screw a tee with a gauge \
                 under the nozzle of a spray.",
                "Read the first head, the farthest and the highest; note the meter over one minute while it \
                    runs.",
                "Under the nozzle of a regulated body the gauge shows the regulated side: say so with the \
                    reading.",
                either(
                    u,
                    "Within 3 psi or 10 % of what stands here is fine. Less pressure and more flow: a leak. \
                        More pressure and \
                     less flow: a clog.",
                    "Within 20 kPa or 10 % of what stands here is fine. Less pressure and more flow: a \
                        leak. More pressure and \
                     less flow: a clog.",
                ),
            ],
            "Never stand over a fitting under test. Pressure over what drip is rated for lets fittings go: \
                regulator first.",
        ),
        Step::Times => (
            "How much falls, and how fast it sinks in",
            vec![
                "Set straight-sided cans, all alike, on an even grid between the heads; run the zone a \
                    known time; measure the \
                 depth in each.",
                "The mean gives the rate; the mean of the lowest quarter over the mean of all the \
                    uniformity.",
                "Watch when water begins to run off: that is how long one cycle may be. Dig after an hour \
                    to see how deep it \
                 went.",
                "Ask which days and hours the water supplier allows.",
            ],
            "Controllers on mains are for licensed electricians; watering days are the supplier's.",
        ),
        Step::Parts => (
            "What size a pipe is",
            vec![
                "Wrap a strip of paper round the pipe, mark where it meets, and divide by 3.14: that is the \
                    outside. Lay it on \
                 the sheet at true size to find the pipe.",
                "Read the print line of the pipe: material, nominal size, class.",
                "Male or female, tapered or hose thread: hold it against the sheet too.",
                "Count what the truck has before you order; sticks and coils are whole.",
            ],
            "Solvent cement: open air, no flame. Cutters and punches: gloves, and away from the hand that \
                holds.",
        ),
    };
    HowTo {
        step,
        title,
        lines,
        caution,
    }
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
}

const fn sign(word: &'static str, means: &'static str, cure: &'static str) -> Entry {
    Entry { word, means, cure }
}

const fn word(word: &'static str, means: &'static str) -> Entry {
    Entry {
        word,
        means,
        cure: "",
    }
}

/// Signs of trouble, then words.
pub const ENTRIES: [Entry; 40] = [
    sign(
        "Fog, mist over the heads",
        "Pressure over what the nozzle works best at; a wrong nozzle.",
        "Gauge under the nozzle, running. Regulate where the comparison on Pressure says.",
    ),
    sign(
        "Last head weak",
        "Too many heads; lateral too small or too long; a valve half closed; a leak.",
        "Flow at the meter against the sum of the nozzles: equal is friction, more a leak, less a blockage \
            before them. Split, \
         widen the first leg, feed in the middle.",
    ),
    sign(
        "Heads don't rise, don't pop up",
        "Pressure missing; valve not fully open; grit at the wiper.",
        "Pressure at the valve's outlet tells which.",
    ),
    sign(
        "Heads rise, then sink",
        "The supply falls off with time: well, tank, pump, or another user.",
        "Read the pressure over five minutes. Smaller zones, other hours.",
    ),
    sign(
        "Dry ring round the head, doughnut",
        "Pressure too low; nozzle clogged; head too deep.",
        "Gauge. Raise or clean the head; fewer heads on the valve.",
    ),
    sign(
        "Puddles, runoff",
        "Rate over what the soil takes; run too long; slope.",
        "Catch cans and minutes. Cycle and soak; slower nozzles.",
    ),
    sign(
        "Wet wall, wet paving",
        "Arc or throw; a tilted head; wind; pressure.",
        "Look while it runs. Trim, move, regulate.",
    ),
    sign(
        "Valve won't close",
        "Grit under the diaphragm; flow control wide open; bleed open; wired to stay on.",
        "Close the flow control by hand; pull a wire. Rinse, tune, mend.",
    ),
    sign(
        "Valve won't open",
        "No voltage; solenoid; flow control shut; arrow against the flow.",
        "Meter at the solenoid.",
    ),
    sign(
        "Drip fittings blow off",
        "Pressure over their rating, with no regulator or one without effect; a wrong diameter; cement on a \
            barb.",
        "Gauge with the end shut. Regulate at the valve: clamps are no cure.",
    ),
    sign(
        "Some emitters dry",
        "Clogged (one in a hundred is usual); a kinked tube.",
        "Open one, look at the filter. Rinse and flush.",
    ),
    sign(
        "First plants soaked, last dry",
        "Emitters that do not compensate; row too long; slope.",
        "Gauge at both ends. Compensating emitters, feed both ends, split.",
    ),
    sign(
        "Regulator shows no effect",
        "Too little pressure over its setting; put in backwards; outside its flow band.",
        "Gauge before and after. Set lower, another kind, turn it round.",
    ),
    sign(
        "Rotators stand still",
        "Pressure too low; grit.",
        "Gauge. More pressure, or rinse.",
    ),
    sign(
        "Pump cycles, goes on and off",
        "The zone takes less than the pump's least flow.",
        "Count starts over ten minutes. Join zones, or a larger tank.",
    ),
    sign(
        "Low head drains after shut-off",
        "Height of pipe above it; no check valve in it.",
        "Look after the valve closes. A head with a check valve.",
    ),
    sign(
        "More water used than planned, bill too high",
        "A leak; pressure; changed times; a broken head.",
        "A timed minute at the meter, zone by zone.",
    ),
    word("Static pressure", "What the gauge shows with nothing running."),
    word(
        "Running pressure, working or dynamic pressure",
        "What the gauge shows while a known flow runs; with the static one it tells what is left at any \
            flow.",
    ),
    word(
        "Design flow",
        "What one valve may take: the least of what meter, line, pressure and pump allow, less a margin.",
    ),
    word("Station", "One output of the controller, and so one valve."),
    word(
        "Lateral",
        "Pipe behind the valve, under pressure only while it is open.",
    ),
    word("Main, mainline", "Pipe before the valves, always under pressure."),
    word("Manifold", "Valves side by side on one piece of main."),
    word(
        "Precipitation rate",
        "Depth of water an hour that falls on the ground of a zone.",
    ),
    word(
        "Matched",
        "Nozzles whose flow goes with their arc, so that a quarter gives as much depth as a full circle.",
    ),
    word("Head to head", "Each head throws to the next one."),
    word("Arc", "The part of the circle that a head waters, in degrees."),
    word(
        "Distribution uniformity, DU",
        "Mean of the driest quarter over the mean of all; it decides how much longer a zone runs than the \
            plants need.",
    ),
    word(
        "Cycle and soak",
        "A run in parts, with pauses in which the water sinks in.",
    ),
    word(
        "ET, evapotranspiration",
        "What soil and plants lose to the air, as a depth of water.",
    ),
    word(
        "Spread",
        "How far pressures of the heads on one valve lie apart, as a share of what they want.",
    ),
    word(
        "Regulator, module, preset, body",
        "Three places to hold the pressure: on the valve, in the line behind it, in each head.",
    ),
    word(
        "Room of a regulator",
        "What it needs at its inlet over its setting to work at all.",
    ),
    word(
        "Check valve",
        "Keeps a low head from draining the pipe when the valve closes.",
    ),
    word(
        "Backflow device",
        "Keeps garden water out of drinking water; which, and how high, the local code says.",
    ),
    word(
        "Compensating emitter",
        "Gives the same flow over a wide band of pressure.",
    ),
    word("Dripline", "Tube with emitters in it, at even steps."),
    word(
        "Flush valve",
        "At the end of a drip zone: opens until its first water has carried out what lies in it.",
    ),
    word(
        "Sleeve",
        "Wider pipe beneath paving that a pipe can later be drawn through.",
    ),
];

/// Entries that hold every word somebody looks for, signs first; all of them where nothing is.
pub fn found(asked: &str) -> Vec<&'static Entry> {
    let words: Vec<String> = asked.split_whitespace().map(str::to_lowercase).collect();
    let holds = |e: &&Entry| {
        let text = format!("{} {} {}", e.word, e.means, e.cure).to_lowercase();
        words.iter().all(|w| text.contains(w.as_str()))
    };
    let mut found: Vec<&Entry> = ENTRIES.iter().filter(holds).collect();
    // What is called so comes before what only speaks of it.
    let called = |e: &&Entry| !words.iter().all(|w| e.word.to_lowercase().contains(w.as_str()));
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
        assert_eq!(first("fog"), "Fog, mist over the heads");
        assert_eq!(first("MIST"), "Fog, mist over the heads");
        assert_eq!(first("blow off"), "Drip fittings blow off");
        assert_eq!(first("du"), "Distribution uniformity, DU");
        assert_eq!(first("regulator effect"), "Regulator shows no effect");
        assert!(found("zebra").is_empty());
        assert_eq!(found("  ").len(), ENTRIES.len());
        assert!(
            ENTRIES.iter().filter(|e| !e.cure.is_empty()).count() >= 17,
            "the whole trouble table"
        );
    }
}
