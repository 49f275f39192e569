//! Nozzles that a company keeps for all its jobs. A job holds its own copies: it is computed as it stands,
//! here and on another machine, whatever the company changes later.

use crate::catalogue::OwnNozzle;
use crate::job::Job;
use crate::plan::{Edit, EditError, Plan, SetFavourites};
use crate::units::UnitSystem;

/// The company's nozzles, and the ids of those on its trucks.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct HouseNozzles {
    /// With their charts.
    pub nozzles: Vec<OwnNozzle>,
    /// Built-in ones too.
    pub truck: Vec<String>,
}

/// How a job's nozzles part from the company's.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Parted<'a> {
    /// The company's that the job does not have.
    pub missing: Vec<&'a OwnNozzle>,
    /// Those that both have under one name and that differ, as the job has them.
    pub otherwise: Vec<&'a OwnNozzle>,
    /// The job's that the company does not have.
    pub own: Vec<&'a OwnNozzle>,
    /// Other nozzles are on the truck.
    pub truck: bool,
}

impl Parted<'_> {
    /// Nothing parts them.
    pub fn is_none(&self) -> bool {
        *self == Self::default()
    }
}

fn of<'a>(nozzles: &'a [OwnNozzle], id: &str) -> Option<&'a OwnNozzle> {
    nozzles.iter().find(|n| n.id == id)
}

fn sorted(ids: &[String]) -> Vec<&String> {
    let mut ids: Vec<&String> = ids.iter().collect();
    ids.sort_unstable();
    ids
}

impl HouseNozzles {
    /// How a job's nozzles part from these.
    pub fn parted<'a>(&'a self, plan: &'a Plan) -> Parted<'a> {
        let theirs = |n: &&OwnNozzle| of(&self.nozzles, &n.id);
        Parted {
            missing: self.nozzles.iter().filter(|n| of(&plan.nozzles, &n.id).is_none()).collect(),
            otherwise: plan.nozzles.iter().filter(|n| theirs(n).is_some_and(|t| t != *n)).collect(),
            own: plan.nozzles.iter().filter(|n| theirs(n).is_none()).collect(),
            truck: sorted(&self.truck) != sorted(&plan.favourites),
        }
    }

    /// Brings these into a job, over its own of the same name, with the truck; those that only the job has
    /// stay. None: it has them.
    pub fn brought_into(&self, plan: &Plan) -> Option<Edit> {
        let new = self.nozzles.iter().filter(|n| of(&plan.nozzles, &n.id) != Some(n));
        let mut edits: Vec<Edit> = new.cloned().map(Edit::put).collect();
        if self.parted(plan).truck {
            edits.push(Edit::SetFavourites(SetFavourites { ids: self.truck.clone() }));
        }
        (!edits.is_empty()).then(|| Edit::batch(edits))
    }

    /// These with a job's, the job's before the company's of the same name, and with its truck.
    #[must_use]
    pub fn with_those_of(&self, plan: &Plan) -> Self {
        let kept = self.nozzles.iter().filter(|n| of(&plan.nozzles, &n.id).is_none());
        let mut nozzles: Vec<OwnNozzle> = kept.chain(&plan.nozzles).cloned().collect();
        nozzles.sort_by(|a, b| a.label.cmp(&b.label).then_with(|| a.id.cmp(&b.id)));
        Self { nozzles, truck: plan.favourites.clone() }
    }

    /// A job of nothing but these: what a job can't hold the company can't keep.
    ///
    /// # Errors
    /// As of the edit: too many, names that are taken, charts that make no sense.
    pub fn alone(&self) -> Result<Job, EditError> {
        let empty = Job::new(Plan::new("Nozzles", UnitSystem::Us));
        match self.brought_into(&empty) {
            Some(edit) => Ok(empty.apply(&edit)?.0),
            None => Ok(empty),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::catalogue::{ChartRow, Kind};
    use crate::units::{Flow, Length, Pressure};

    fn nozzle(label: &str, gpm: f64) -> OwnNozzle {
        OwnNozzle {
            id: format!("own-{}", label.to_lowercase()),
            label: label.into(),
            kind: Kind::Spray,
            chart: vec![ChartRow {
                pressure: Pressure::from_psi(30.0),
                arc: 360,
                radius: Length::from_ft(12.0),
                flow: Flow::from_gpm(gpm),
            }],
            price: None,
        }
    }
    fn job(nozzles: &[OwnNozzle], truck: &[&str]) -> Job {
        let house = HouseNozzles {
            nozzles: nozzles.to_vec(),
            truck: truck.iter().map(|t| (*t).to_owned()).collect(),
        };
        house.alone().expect("a job holds them")
    }
    fn names<'a>(list: &[&'a OwnNozzle]) -> Vec<&'a str> {
        list.iter().map(|n| n.label.as_str()).collect()
    }

    #[test]
    fn what_a_job_lacks_and_what_it_has_beside_are_told_apart() {
        let house = HouseNozzles {
            nozzles: vec![nozzle("Field", 2.6), nozzle("Strip", 1.0)],
            truck: vec!["spray-12".into(), "own-field".into()],
        };
        let ours = job(&[nozzle("Field", 2.4), nozzle("Corner", 0.7)], &["spray-12"]);
        let parted = house.parted(&ours);
        assert_eq!(names(&parted.missing), ["Strip"]);
        assert_eq!(names(&parted.otherwise), ["Field"]);
        assert_eq!(names(&parted.own), ["Corner"]);
        assert!(parted.truck);

        // Brought in: theirs over ours of the same name, ours beside them.
        let edit = house.brought_into(&ours).expect("something to bring");
        let (brought, undo) = ours.apply(&edit).expect("applies");
        assert_eq!(brought.nozzles.len(), 3);
        let field = brought.nozzles.iter().find(|n| n.label == "Field").expect("is there");
        assert!((field.chart[0].flow.gpm() - 2.6).abs() < 1e-9);
        assert_eq!(house.brought_into(&brought), None);
        assert_eq!(ours.plan(), brought.apply(&undo).expect("undoes").0.plan());
    }

    #[test]
    fn what_a_job_has_is_kept_for_the_company_and_then_nothing_parts_them() {
        let house = HouseNozzles {
            nozzles: vec![nozzle("Field", 2.6), nozzle("Strip", 1.0)],
            truck: vec!["own-strip".into()],
        };
        let ours = job(&[nozzle("Field", 2.4), nozzle("Corner", 0.7)], &["spray-12", "own-corner"]);
        let kept = house.with_those_of(&ours);
        assert_eq!(
            kept.nozzles.iter().map(|n| n.label.as_str()).collect::<Vec<_>>(),
            ["Corner", "Field", "Strip"]
        );
        assert_eq!(kept.truck, ["spray-12", "own-corner"]);
        let after =
            kept.brought_into(&ours).map_or_else(|| ours.clone(), |e| ours.apply(&e).expect("applies").0);
        assert!(kept.parted(&after).is_none());
        assert!(HouseNozzles::default().parted(&job(&[], &[])).is_none());
    }

    #[test]
    fn the_order_on_the_truck_parts_nobody() {
        let house = HouseNozzles { nozzles: vec![], truck: vec!["spray-12".into(), "spray-10".into()] };
        assert!(house.parted(&job(&[], &["spray-10", "spray-12"])).is_none());
    }

    #[test]
    fn what_a_job_can_t_hold_the_company_can_t_keep() {
        let mut odd = nozzle("Odd", 1.0);
        odd.chart.clear();
        let house = HouseNozzles { nozzles: vec![odd], truck: vec![] };
        assert!(matches!(house.alone(), Err(EditError::Faults(_))));
        // One called as a built-in one is.
        let mut taken = nozzle("Taken", 1.0);
        taken.id = "spray-12".into();
        let house = HouseNozzles { nozzles: vec![taken], truck: vec![] };
        assert!(house.alone().is_err());
    }
}
