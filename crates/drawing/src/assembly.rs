//! An assembly as a picture: its parts in the direction of flow, each with a symbol of ours.

use crate::colour;
use crate::svg::{Anchor, Svg, Type};
use fenlo_core::assembly::{Fault, Train};
use fenlo_core::catalogue::{PartEnd, PartRole};
use fenlo_core::units::UnitSystem;

/// Room of one part.
const STEP: f64 = 92.0;
/// Height of the pipe's middle.
const MIDDLE: f64 = 52.0;

/// A symbol as paths about the middle of its part: what is drawn, and whether it is filled with ink.
fn symbol(role: PartRole) -> &'static [(&'static str, bool)] {
    match role {
        PartRole::Source => &[
            ("M-10 0A10 10 0 1 0 10 0A10 10 0 1 0 -10 0Z", false),
            ("M0 -6C5 1 4 5 0 5C-4 5 -5 1 0 -6Z", true),
        ],
        PartRole::Valve => &[("M-14 -9L14 9V-9L-14 9Z", false), ("M0 0V-12M-8 -20H8V-12H-8Z", false)],
        PartRole::AntiSiphon => &[
            ("M-14 -9L14 9V-9L-14 9Z", false),
            ("M-6 0V-14M-12 -20H0V-14H-12Z", false),
            ("M8 -4V-14M2 -14H14L8 -22Z", true),
        ],
        PartRole::Timer => &[
            ("M-14 -22H14V12H-14Z", false),
            ("M-9 -6A9 9 0 1 0 9 -6A9 9 0 1 0 -9 -6ZM0 -6V-12M0 -6L4 -3", false),
        ],
        PartRole::Breaker => &[("M-9 0A9 9 0 1 0 9 0A9 9 0 1 0 -9 0Z", false), ("M-7 -12H7L0 -22Z", true)],
        PartRole::Isolation => &[("M-14 -9L14 9V-9L-14 9Z", false), ("M0 0V-14M-12 -14H4", false)],
        PartRole::Splitter => {
            &[("M-14 0H0L10 -16M0 0L14 0", false), ("M4 -20L16 -12", false), ("M-4 -6H4V6H-4Z", true)]
        }
        PartRole::Arrester => {
            &[("M-14 0H14", false), ("M-6 -26H6V-7H-6ZM0 -7V0", false), ("M-6 -17H6", false)]
        }
        PartRole::Cartridge => &[("M-10 -8H10V26H-10Z", false), ("M-4 2H4M-4 8H4M-4 14H4M-4 20H4", false)],
        PartRole::Filter => &[
            ("M-14 -7H14V7H-14Z", false),
            ("M-2 7L8 24L14 20L6 7", false),
            ("M-8 -7L-2 7M0 -7L6 7M8 -7L14 7", false),
        ],
        PartRole::Regulator => &[("M-12 -8H12V8H-12Z", false), ("M-6 -8L6 -11L-6 -15L6 -19L-6 -23", false)],
        PartRole::Pump => {
            &[("M-13 0A13 13 0 1 0 13 0A13 13 0 1 0 -13 0Z", false), ("M-6 -8L9 0L-6 8Z", true)]
        }
        PartRole::Run => &[("M-30 -5H30M-30 5H30", false), ("M-4 -9L2 9M2 -9L8 9", false)],
        PartRole::SwingJoint => &[("M-18 0H-8V-12H8V0H18", false), ("M-11 -3H-5V3H-11ZM5 -3H11V3H5Z", true)],
        PartRole::Joint => &[("M-8 -7H8V7H-8Z", false), ("M-3 -7V7M3 -7V7", false)],
        PartRole::Transition => {
            &[("M-12 -8H0L8 -4H18M-12 8H0L8 4H18M-12 -8V8", false), ("M-6 -8V8M-2 -8V8", false)]
        }
        PartRole::Header => &[("M-22 0H22", false), ("M-16 0V20M-5 0V20M6 0V20M17 0V20", false)],
        PartRole::Manifold => {
            &[("M-14 -6H14V6H-14Z", false), ("M-10 -6V-16M-3 -6V-18M4 -6V-18M11 -6V-16", false)]
        }
        PartRole::End => &[("M-10 0H4", false), ("M4 -8H10V8H4Z", true)],
    }
}

/// The picture of a train. Parts with a fault are ringed; `numbers` of the list beneath stand under them.
pub fn assembly(train: &Train, faults: &[Fault], u: UnitSystem) -> String {
    let n = train.members.len().max(1);
    let width = STEP * n as f64 + 64.0;
    let mut svg = Svg::new(width, 116.0, "assembly-drawing", "Parts in the direction of flow");
    let middle = |i: usize| 12.0 + STEP * (i as f64 + 0.5);
    for i in 0..n.saturating_sub(1) {
        let ends_here = train.members[i + 1].role == PartRole::End;
        svg.line((middle(i) + 14.0, MIDDLE), (middle(i + 1) - 14.0, MIDDLE), colour::WATER, 4.0, ends_here);
        joint(&mut svg, (middle(i) + middle(i + 1)) / 2.0, train.members[i].outlet.as_ref());
    }
    for (i, member) in train.members.iter().enumerate() {
        let x = middle(i);
        let wrong = faults.iter().any(|f| f.at == i);
        if wrong {
            svg.circle((x, MIDDLE), 31.0, colour::CARD, colour::STOP);
        }
        let stroke = if wrong { colour::STOP } else { colour::INK };
        for (d, filled) in symbol(member.role) {
            let fill = if *filled { stroke } else { colour::CARD };
            let turn = if member.reversed { " scale(-1 1)" } else { "" };
            svg.raw(&format!(
                r#"<path d="{d}" transform="translate({x:.1} {MIDDLE}){turn}" stroke="{stroke}"
                  fill="{fill}" stroke-width="1.8" stroke-linejoin="round"/>"#
            ));
        }
        if let Some(set) = member.set {
            let text = set.show_round(u);
            let small = Type { size: 11.0, bold: false, fill: colour::INK };
            svg.text((x, MIDDLE - 28.0), Anchor::Middle, small, &text);
        }
        let number = Type { size: 13.0, bold: true, fill: stroke };
        svg.text((x, 104.0), Anchor::Middle, number, &(i + 1).to_string());
    }
    // Which way the water goes.
    let (x, y) = (width - 20.0, 104.0);
    svg.line((x - 34.0, y - 4.0), (x, y - 4.0), colour::WATER, 2.0, false);
    svg.line((x - 7.0, y - 9.0), (x, y - 4.0), colour::WATER, 2.0, false);
    svg.line((x - 7.0, y + 1.0), (x, y - 4.0), colour::WATER, 2.0, false);
    svg.finish()
}

/// How two parts meet: threads as slanted strokes, hose thread as two upright ones, tube as a nut.
fn joint(svg: &mut Svg, x: f64, end: Option<&PartEnd>) {
    let mut stroke = |dx: f64, lean: f64| {
        let (a, b) = ((x + dx - lean, MIDDLE - 7.0), (x + dx + lean, MIDDLE + 7.0));
        svg.line(a, b, colour::INK, 1.4, false);
    };
    match end {
        Some(PartEnd::Thread { .. }) => [-4.0, 0.0, 4.0].iter().for_each(|dx| stroke(*dx, 1.5)),
        Some(PartEnd::Hose { .. }) => [-2.5, 2.5].iter().for_each(|dx| stroke(*dx, 0.0)),
        Some(PartEnd::Slip { .. }) => stroke(0.0, 0.0),
        Some(PartEnd::Tube(_)) | None => {}
    }
}
