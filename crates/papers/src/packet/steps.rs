//! The order of the work, a caution at each step where it matters.

use super::Packet;
use crate::blocks::Block;
use crate::lang::Phrases;

impl Packet<'_> {
    /// The order of the work; a caution stands at the step where it matters.
    pub(super) fn steps(&mut self) {
        self.put(Block::Break);
        self.heading(1, "Steps");
        let mut first = 1;
        let job = self.job;
        let drip =
            job.groups.iter().any(|g| job.catalogue().nozzle(&g.nozzle).is_some_and(|n| n.kind.is_drip()));
        let heads =
            job.groups.iter().any(|g| job.catalogue().nozzle(&g.nozzle).is_some_and(|n| !n.kind.is_drip()));
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
            &["Have utilities located and marked before trenching. Hand-dig near every mark."],
            vec![
                "Utilities located and marked: ticket number, date.",
                "Mark heads with numbered flags, boxes and trenches with paint. Dry-lay before digging.",
                "Read the static pressure at the hose bib and record it on the test sheet.",
            ],
        );
        let mut digging = vec![
            "Dig per trench list. Lay the pipes of one trench side by side, never on top of each other.",
            "Cross pavement at a right angle, sleeve 1 ft (30 cm) beyond both edges, the spare sleeve \
                capped.",
        ];
        if roots {
            digging.push("Among roots dig by hand; cut no root thicker than a thumb.");
        }
        part(
            self,
            "Trenches",
            &["Trencher: guards on, gloves, eye protection; no one near a running chain. Trenches deeper \
                    than the code limit need shoring."],
            digging,
        );
        let mut pipe = vec!["Keep dirt out: cap every open end."];
        let mut cautions = vec!["Relieve pressure before opening anything."];
        if pvc {
            cautions.push("Primer and cement: fresh air, no flame, gloves.");
            pipe.push(
                "PVC: cut square, deburr, prime both parts, cement, push home with a quarter turn and \
                    hold. No pressure until the cure time on the can has passed.",
            );
            pipe.push(
                "Threads: 4 to 5 turns of tape in the tightening direction. Start by hand; hand-tight plus \
                    a little. No wrench on plastic female threads.",
            );
        }
        if poly {
            pipe.push(
                "Poly: let it warm in the sun, unroll it, do not pull it off the side of the coil; \
                ends cut square, no shavings.",
            );
        }
        pipe.push(
            "Mainline first with its shutoff; then boxes and valves, arrows with the flow and room to \
                unscrew filter bowls; then laterals.",
        );
        part(self, "Pipe, valve boxes, valves", &cautions, pipe);
        let mut backflow = vec![
            "Every connection to drinking water needs the backflow preventer and height that local code \
                requires, tested by a certified tester.",
        ];
        if job.supplies.iter().any(|s| !s.water.is_potable()) {
            backflow.push("Non-potable water: no cross-connection anywhere; mark every outlet.");
        }
        part(
            self,
            "Point of connection",
            &backflow,
            vec![
                "Install the backflow preventer where the plan shows it, upstream of every valve; leave \
                    room to test it.",
            ],
        );
        part(
            self,
            "Flush and test, trenches open",
            &["Never stand over a fitting under test. Fill slowly."],
            vec![
                "Flush the mainline, then each lateral with its ends open, until it runs clear. Then \
                    install nozzles and emitters.",
                "Pressure test: check every joint and thread, fix leaks, record the result.",
            ],
        );
        if heads {
            part(
                self,
                "Heads",
                &["No water on walks, driveways and walls: it makes them slippery and stains them."],
                vec![
                    "Set heads flush with finished grade on swing joints; nozzle per head layout sheet.",
                    "Set arcs and radius as planned; regulated bodies where the valve table says so.",
                ],
            );
        }
        if drip {
            part(
                self,
                "Drip",
                &["Punches and cutters: cut away from your hand. Loose tubing is a trip hazard: stake or \
                        cover it."],
                vec![
                    "Lay rows as the cut list says, first emitter at the distance given; pin every 2 to 3 \
                        ft (60 to 90 cm) and at bends.",
                    "Flush with the ends open, then close them. Fit emitters on micro tubing last, after \
                        it has run 5 to 10 s.",
                    "No cement and no tape on drip fittings; hand-tight.",
                ],
            );
        }
        part(
            self,
            "Wire and controller",
            &["Line voltage and pumps: licensed electrician. Low-voltage wire per code."],
            vec![
                "Wire in the mainline trench, 24 in (60 cm) of slack in every valve box, waterproof wire \
                    connectors, spares capped and marked.",
                "Program the controller from the schedule; label valves in their boxes with plan numbers.",
            ],
        );
        part(
            self,
            "Close and hand over",
            &[],
            vec![
                "Backfill without stones, compact in layers. Compact drip trenches as firm as the soil \
                    around them.",
                "Do the tests on the test sheet, record readings, sign.",
                "As-built plan: mark what was installed differently.",
            ],
        );
    }
}
