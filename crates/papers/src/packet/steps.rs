//! The order of the work, a caution at each step where it matters.

use super::Packet;
use crate::blocks::Block;

impl Packet<'_> {
    /// The order of the work; a caution stands at the step where it matters.
    pub(super) fn steps(&mut self) {
        self.put(Block::Break);
        self.heading(1, "Steps");
        let mut first = 1;
        let job = self.job;
        let drip = job.groups.iter().any(|g| {
            job.catalogue()
                .nozzle(&g.nozzle)
                .is_some_and(|n| n.kind.is_drip())
        });
        let heads = job.groups.iter().any(|g| {
            job.catalogue()
                .nozzle(&g.nozzle)
                .is_some_and(|n| !n.kind.is_drip())
        });
        let pvc = job
            .piping
            .legs
            .iter()
            .any(|l| l.pipe.material.starts_with("pvc") || l.pipe.material == "class-200");
        let poly = job.piping.legs.iter().any(|l| l.pipe.material.starts_with("pe")) || drip;
        let roots = self.taken.digging.by_hand().m() > 0.1;
        let mut part = |packet: &mut Self, title: &str, cautions: &[&str], items: Vec<&str>| {
            packet.heading(2, title);
            for caution in cautions {
                packet.caution(caution);
            }
            let items: Vec<String> = items.iter().map(|i| packet.lang.say(i).to_owned()).collect();
            let n = items.len();
            packet.put(Block::Steps { first, items });
            first += n;
        };
        part(
            self,
            "Before digging",
            &["Have buried services located and marked before any trench. Dig by hand near every mark."],
            vec![
                "Services located and marked: number of the ticket, date.",
                "Set out heads with flags of the valve’s number, boxes and trenches with paint; dry-lay \
                    before digging.",
                "Read the static pressure at the tap and write it on the test sheet.",
            ],
        );
        let mut digging = vec![
            "Dig as the trench list says; pipes of one trench lie side by side, not one on the other.",
            "Cross paving at a right angle, sleeve 1 ft (30 cm) beyond both edges, the spare sleeve capped.",
        ];
        if roots {
            digging.push("Among roots dig by hand; cut no root thicker than a thumb.");
        }
        part(
            self,
            "Trenches",
            &[
                "Trencher: guards on, gloves, eye protection; nobody beside a running chain. Trenches \
                    deeper than the code’s limit need shoring.",
            ],
            digging,
        );
        let mut pipe = vec!["Keep dirt out: cap every open end."];
        let mut cautions = vec!["Relieve pressure before opening anything."];
        if pvc {
            cautions.push("Primer and cement: fresh air, no flame, gloves.");
            pipe.push(
                "PVC: cut square, take off burrs, prime both, cement, push home with a quarter turn, \
                hold; no pressure before the tin’s time is over.",
            );
            pipe.push(
                "Threads: tape 4 to 5 turns the way it tightens; start by hand; hand-tight and a \
                little. No wrench on plastic inside threads.",
            );
        }
        if poly {
            pipe.push(
                "Poly: let it warm in the sun, unroll it, do not pull it off the side of the coil; \
                ends cut square, no shavings.",
            );
        }
        pipe.push(
            "Main first, with its shut-off; then boxes and valves, arrows with the flow, room to \
            unscrew bowls; then laterals.",
        );
        part(self, "Pipe, boxes, valves", &cautions, pipe);
        let mut backflow = vec![
            "Every connection to drinking water needs the backflow device the local code names, at its \
                height, tested by a certified person.",
        ];
        if job.supplies.iter().any(|s| !s.water.is_potable()) {
            backflow
                .push("Water that is not drinking water: no cross-connection anywhere; mark every outlet.");
        }
        part(
            self,
            "Connection",
            &backflow,
            vec![
                "Install the backflow device where the plan shows it, before every valve; leave room for \
                    its test.",
            ],
        );
        part(
            self,
            "Flush and test, trenches open",
            &["Never stand over a fitting under test. Fill slowly."],
            vec![
                "Flush the main, then each lateral with its ends open, before nozzles and emitters go on, \
                    until it runs clear.",
                "Pressure test: look at every joint and thread, mend what weeps, write it down.",
            ],
        );
        if heads {
            part(
                self,
                "Heads",
                &["No water on walks, drives and walls: it makes them slippery and stains them."],
                vec![
                    "Heads level with the finished ground, on their swing joints; nozzle by the setting-out \
                        sheet.",
                    "Turn arcs and throws as planned; regulated bodies where the valve table says so.",
                ],
            );
        }
        if drip {
            part(
                self,
                "Drip",
                &[
                    "Punches and cutters: cut away from the hand. Tube on the ground trips people: pin it \
                        down or cover it.",
                ],
                vec![
                    "Lay rows as the cut list says, first emitter at the distance given; pin every 2 to 3 \
                        ft (60 to 90 cm) and at bends.",
                    "Flush with the ends open, then close them. Emitters on micro tube last: let it run 5 \
                        to 10 s first.",
                    "No cement and no tape on drip fittings; hand-tight.",
                ],
            );
        }
        part(
            self,
            "Wire and controller",
            &["Mains voltage and pumps: a licensed electrician. Low-voltage wire by the code."],
            vec![
                "Wire in the trench of the main, 24 in (60 cm) of slack in every box, waterproof \
                    connectors, spares capped and marked.",
                "Key in the controller sheet; label the valves in their boxes with the plan’s numbers.",
            ],
        );
        part(
            self,
            "Close and hand over",
            &[],
            vec![
                "Backfill without stones, compact in layers; drip trenches as dense as the ground beside \
                    them.",
                "Do the tests of the test sheet, write down what was read, sign.",
                "Plan as built: note what was laid otherwise.",
            ],
        );
    }
}
