//! Bodies, nozzles, and what stands under them.

use super::line::{How, LineKind, Named, Reason, Tally, Unit, size_for_people};
use super::net::{Nets, Spot};
use crate::catalogue::{ArcRule, HeadClass, Kind, Nozzle};
use crate::job::Job;
use crate::plan::{HeadGroup, Plants, Regulation};
use crate::terms::Lang;
use crate::units::{Length, UnitSystem};

/// Heads of all groups that throw, and stakes and bubblers.
pub(super) fn heads(job: &Job, tally: &mut Tally) {
    for group in &job.groups {
        let Some(nozzle) = job.catalogue().nozzle(&group.nozzle) else {
            continue;
        };
        if nozzle.kind.is_drip() {
            continue;
        }
        let class = job.catalogue().class(nozzle.kind);
        for (index, arc, valve) in group.heads() {
            let id = head_id(group, index);
            let regulated = match valve.and_then(|v| job.valve(v)).map(|v| v.regulation) {
                Some(Regulation::Body { set }) => Some(set),
                _ => None,
            };
            let body = body(job, group, class, regulated.map(|s| s.show_round(job.units)));
            tally.each(body, 1.0, Reason::Heads, &id);
            if nozzle.kind != Kind::Stake && nozzle.kind != Kind::Bubbler {
                tally.each(with_arc(nozzle, arc), 1.0, Reason::Heads, &id);
            }
        }
    }
}

/// What a head is called on the plan: its own name where it is drawn, else its group and number.
fn head_id(group: &HeadGroup, index: u32) -> String {
    let listed: u32 = group.listed.iter().map(|l| l.count).sum();
    let drawn = index.checked_sub(listed).and_then(|i| group.drawn.get(i as usize));
    drawn.map_or_else(|| format!("{}.{}", group.id, index + 1), |h| h.id.clone())
}

fn body(job: &Job, group: &HeadGroup, class: &HeadClass, regulated: Option<String>) -> Named {
    let rules = &job.rules.buying;
    let rise = if group.plants == Plants::Lawn { rules.lawn_rise } else { rules.bed_rise };
    let shown = show_rise(rise, job.units);
    let mut named = match class.kind {
        Kind::Stake => Named::new(LineKind::Head, "stake", Kind::Stake.name(Lang::En)),
        Kind::Bubbler => {
            let label = job
                .catalogue()
                .nozzle(&group.nozzle)
                .map_or_else(|| class.kind.name(Lang::En).to_owned(), |n| n.label.clone());
            Named::new(LineKind::Head, group.nozzle.clone(), label)
        }
        kind => {
            let word = match kind {
                _ if class.in_body => "body".to_owned(),
                Kind::RotorShort => "rotor-short".to_owned(),
                Kind::RotorLarge => "rotor-large".to_owned(),
                _ => "rotor".to_owned(),
            };
            let label =
                if class.in_body { "Pop-up body".to_owned() } else { class.kind.name(Lang::En).to_owned() };
            let inches = (rise.inches() * 10.0).round() / 10.0;
            Named::new(LineKind::Head, format!("{word}-{inches}in"), label).sized(shown)
        }
    };
    if let Some(set) = regulated {
        named.part += &format!("-regulated-{}", set.replace(' ', ""));
        named.size += &format!(", regulated {set}");
    }
    named
}

fn show_rise(rise: Length, units: UnitSystem) -> String {
    match units {
        UnitSystem::Us => format!("{} in", (rise.inches() * 10.0).round() / 10.0),
        _ => format!("{:.0} cm", rise.m() * 100.0),
    }
}

/// Arcs that fixed nozzles are made with; others are set on an adjustable one.
const FIXED: [u16; 7] = [45, 90, 120, 180, 240, 270, 360];

/// A nozzle with the arc it is bought for: adjustable ones are one part for all arcs.
fn with_arc(nozzle: &Nozzle, arc: u16) -> Named {
    let adjustable = nozzle.arc_rule == ArcRule::Any || nozzle.pattern.is_some();
    if adjustable {
        return Named::new(LineKind::Nozzle, nozzle.id.clone(), nozzle.label.clone());
    }
    let (part, size) = if FIXED.contains(&arc) {
        (format!("{}-{arc}", nozzle.id), format!("{arc}°"))
    } else {
        (format!("{}-adjustable", nozzle.id), "adjustable arc".to_owned())
    };
    Named::new(LineKind::Nozzle, part, nozzle.label.clone()).sized(size)
}

/// What stands between lateral and head: a swing joint, or a riser where the house sets them stiff.
pub(super) fn swing(job: &Job, nets: &Nets<'_>, tally: &mut Tally) -> u32 {
    let mut threads = 0;
    for net in &nets.nets {
        for node in &net.nodes {
            let Spot::Head(Some(thread)) = &node.spot else {
                continue;
            };
            let (part, label) = if job.rules.buying.swing_joints {
                ("swing-joint", "Swing joint")
            } else {
                ("riser", "Riser")
            };
            let named = Named::new(LineKind::Fitting, format!("{part}-{thread}"), label);
            tally.add(
                named.sized(size_for_people(thread)),
                Unit::Each,
                1.0,
                How::Each(Reason::Swing),
                std::slice::from_ref(&node.id),
            );
            threads += 2;
        }
    }
    threads
}
