use super::*;
use crate::plan::{EmitterJoin, PlantEmitters, PlantLaying};
use crate::site::{ObjectKind, Planting, SiteObject, WaterUse};
use crate::zone::zone_of;

fn plant(id: &str, canopy_ft: f64, at: Point, to: Option<Point>, count: u32) -> SiteObject {
    SiteObject {
        id: id.into(),
        name: String::new(),
        what: ObjectKind::Plant(Planting {
            canopy: Length::from_ft(canopy_ft),
            at,
            to,
            count,
        }),
    }
}

fn garden(joined: EmitterJoin) -> Plan {
    let mut plan = bed(
        rect(0.0, 0.0, 30.0, 10.0),
        "emitter-1",
        12.0,
        18.0,
        Point::new(0.0, 5.0),
    );
    plan.groups[0].pipe = "drip-poly 1/2in".parse().unwrap();
    plan.groups[0].drip = Some(DripLaying::Plants(PlantLaying {
        joined,
        each: None,
        basin: None,
        other: Vec::new(),
    }));
    plan.site.objects.push(plant(
        "t1",
        4.0,
        Point::new(2.0, 5.0),
        Some(Point::new(20.0, 5.0)),
        10,
    ));
    plan.site
        .objects
        .push(plant("t2", 16.0, Point::new(25.0, 5.0), None, 1));
    plan.site
        .objects
        .push(plant("t3", 4.0, Point::new(25.0, 15.0), None, 1));
    plan
}

#[test]
fn emitters_go_by_canopy_and_thirst() {
    let count = |ft: f64, thirst| emitters_for(Length::from_ft(ft), thirst);
    assert_eq!(count(1.0, WaterUse::Medium), 1);
    assert_eq!(count(4.0, WaterUse::Medium), 2);
    assert_eq!(count(6.0, WaterUse::Medium), 3);
    assert_eq!(count(10.0, WaterUse::Medium), 4);
    assert_eq!(count(16.0, WaterUse::Medium), 6);
    assert_eq!(count(30.0, WaterUse::Medium), 9);
    assert_eq!(count(4.0, WaterUse::High), 3);
    assert_eq!(count(16.0, WaterUse::Low), 5);
    assert_eq!(count(1.0, WaterUse::Low), 1);
    assert_eq!(count(90.0, WaterUse::High), 16);
}

#[test]
fn a_line_runs_past_the_plants_of_its_ground_in_order() {
    let plan = garden(EmitterJoin::AtTube);
    let laid = laid(&plan);
    // Ten shrubs of two and a tree of six; the plant outside is not meant.
    assert_eq!(laid.plants.len(), 11);
    assert_eq!(laid.emitters.len(), 26);
    near(laid.flow().gpm(), 26.0 / 60.0, 1e-5);
    let along: Vec<f64> = laid.plants.iter().map(|p| p.at.x).collect();
    assert!(along.windows(2).all(|w| w[0] < w[1]), "{along:?}");
    // The tree's ring stands at the canopy's edge: 8 ft from its stem.
    let tree = laid.plants.iter().find(|p| p.plant == "t2").unwrap();
    for e in &laid.emitters[tree.emitters.clone()] {
        near(e.at.distance(tree.at), ft(8.0), 1e-9);
    }
    near(tree.flow.gpm() * 60.0, 6.0, 1e-4);
    // The tube goes round the tree; shrubs have micro tube.
    assert_eq!(laid.micro_tubes.len(), 20);
}

#[test]
fn a_ring_in_the_tube_has_no_micro_tube_and_manifolds_share_theirs() {
    let ring = laid(&garden(EmitterJoin::InTube));
    assert!(ring.micro_tubes.is_empty() && ring.manifolds == 0);
    let shared = laid(&garden(EmitterJoin::SixOutlets));
    // Shrubs stand 2 m apart: three of two emitters to a manifold, the last alone; the tree has one.
    assert_eq!((shared.emitters.len(), shared.manifolds), (26, 5));
    assert!(shared.tubes.iter().filter(|t| t.part == Part::Line).count() < 11);
}

#[test]
fn single_plants_may_get_other_emitters_and_micro_tube_at_line_pressure_costs() {
    let mut plan = garden(EmitterJoin::AtPlant);
    let Some(DripLaying::Plants(laying)) = plan.groups[0].drip.as_mut() else {
        panic!()
    };
    laying.other.push(PlantEmitters {
        plant: "t2".into(),
        each: Some(3),
        nozzle: Some("emitter-4".into()),
    });
    let found = laid(&plan);
    let tree = found.plants.iter().find(|p| p.plant == "t2").unwrap();
    near(tree.flow.gpm() * 60.0, 12.0, 1e-4);
    let zone = zone_of(&Job::of(&plan), &plan.valves[0]).unwrap();
    near(zone.flow.gpm(), (20.0 + 12.0) / 60.0, 1e-4);
    assert!(zone.heads[0].highest > zone.heads[0].nozzle);
}

#[test]
fn ground_without_plants_says_so() {
    let mut plan = garden(EmitterJoin::AtTube);
    plan.site.objects.retain(|o| o.id == "a1");
    assert_eq!(lay(&Job::of(&plan), &plan.groups[0]), Err(DripFault::NoPlants));
}

#[test]
fn open_micro_tube_gives_what_the_pressure_drives_out() {
    // 5 ft of 0.170 in at 20 psi: 13.4 q^1.852 of friction and 2.0 q^2 of outflow are 20 psi at 1.15 gpm.
    let q = open_tube(
        Length::from_ft(5.0),
        Length::from_in(0.170),
        140.0,
        Pressure::from_psi(20.0),
    );
    near(q.gpm(), 1.15, 0.01);
    let mut plan = garden(EmitterJoin::OpenEnd);
    let Some(DripLaying::Plants(laying)) = plan.groups[0].drip.as_mut() else {
        panic!()
    };
    laying.each = Some(1);
    let found = laid(&plan);
    assert_eq!((found.emitters.len(), found.micro_tubes.len()), (11, 11));
    assert!(found.emitters.iter().all(|e| e.open));
    // Solved they share what there is: less than each alone, and the nearer more than the farther.
    let zone = zone_of(&Job::of(&plan), &plan.valves[0]).unwrap();
    assert!(
        zone.flow < found.flow() && zone.flow.gpm() > 1.0,
        "{} of {}",
        zone.flow.gpm(),
        found.flow().gpm()
    );
}
