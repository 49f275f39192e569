//! What is not planned yet.

use crate::said::{Said, counted, said};
use crate::working::Working;
use crate::zone::zone_fault;
use fenlo_core::findings::Check;
use fenlo_core::units::UnitSystem;

pub(crate) fn of_open(check: &Check, u: UnitSystem) -> Option<Said> {
    Some(match check {
        Check::AreaEmpty { name } => said(
            format!("No heads in {name}"),
            "Nothing waters this area yet. It is not in the zones, run times, or parts. Mark it as \
                installed later if it is."
                .to_owned(),
            Working::new("heads and drip rows in the area", "count on the plan").gives("0"),
        ),
        Check::HeadsWithoutValve { heads } => said(
            format!("{} without a valve", counted(*heads, "head")),
            "They get no water. Their pipe and wire are not in the parts.".to_owned(),
            Working::new("heads on the plan − heads on valves", "count on the plan").gives(heads.to_string()),
        ),
        Check::ValveWithoutHeads {} => said(
            "No heads on this valve",
            "Move heads here or delete the valve.".to_owned(),
            Working::new("heads on the valve", "count on the plan").gives("0"),
        ),
        Check::ValveWithoutMain {} => said(
            "No mainline to this valve",
            "Pipe and wire to it are not in the parts. Draw the mainline, route it, or enter its length."
                .to_owned(),
            Working::new("mainline drawn or entered to the valve", "the plan").gives("none"),
        ),
        Check::ValveWithoutLateral {} => said(
            "Lateral not drawn",
            "Heads are drawn, but no pipe to them. Parts count the shortest straight pipe, which may cross \
                pavement or buildings. Draw or route it."
                .to_owned(),
            Working::new("lateral drawn from the valve to its heads", "the plan").gives("none"),
        ),
        Check::WireNotCounted { valves: None } => said(
            "Control wire not in the parts",
            "Draw the controller and the mainline: wire runs in its trench.".to_owned(),
            Working::new("wire along the mainline from the controller", "the plan").gives("not known"),
        ),
        Check::WireNotCounted { valves: Some(n) } => said(
            format!("No wire route to {}", counted(*n, "valve")),
            "Wire follows the mainline, and none reaches there.".to_owned(),
            Working::new("valves that no mainline reaches", "the plan").gives(n.to_string()),
        ),
        Check::ZoneUnsolved { why } => said(
            "Zone not calculated",
            format!("No pressures or flows for this zone: {}.", zone_fault(why, u)),
            Working::new("pressure balance of the zone", "Todini and Pilati 1988").gives("none found"),
        ),
        Check::NightTooLong { finish, window } => said(
            "Schedule does not fit the window",
            format!(
                "Watering in the peak month takes {}; the window is {}. See Times for options.",
                crate::runtime::span(*finish),
                crate::runtime::span(*window)
            ),
            Working::new("end of the last run − start of the window", "packed schedule of the peak month")
                .with("window", crate::runtime::span(*window))
                .gives(crate::runtime::span(*finish)),
        ),
        Check::NightBroken { times } => said(
            "Schedule breaks its own limits",
            format!(
                "Start times set by hand run stations together that do not fit, or outside the window: {}. \
                    See Times.",
                counted(*times, "conflict")
            ),
            Working::new("starts outside the limits", "schedule of the peak month").gives(times.to_string()),
        ),
        Check::NoClimate {} => said(
            "No climate set",
            "Run times use the company's peak week all year. Set the climate on Times.".to_owned(),
            Working::new("months with evaporation and rain", "the job").gives("none"),
        ),
        _ => return None,
    })
}
