use super::*;
use crate::catalogue::{Catalogue, Kind};
use crate::plan::{EmitterJoin, PlantEmitters, PlantLaying};
use crate::site::{ObjectKind, Planting, SiteObject, WaterUse};
use crate::units::Flow;
use crate::zone::zone_of;

fn plant(id: &str, canopy_ft: f64, at: Point, to: Option<Point>, count: u32) -> SiteObject {
    SiteObject {
        id: id.into(),
        name: String::new(),
        what: ObjectKind::Plant(Planting { canopy: Length::from_ft(canopy_ft), at, to, count }),
    }
}

fn garden(joined: EmitterJoin) -> Plan {
    let mut plan = bed(rect(0.0, 0.0, 30.0, 10.0), "emitter-1", 12.0, 18.0, Point::new(0.0, 5.0));
    plan.groups[0].pipe = "drip-poly 1/2in".parse().unwrap();
    plan.groups[0].drip =
        Some(DripLaying::Plants(PlantLaying { joined, each: None, basin: None, other: Vec::new() }));
    plan.site.objects.push(plant("t1", 4.0, Point::new(2.0, 5.0), Some(Point::new(20.0, 5.0)), 10));
    plan.site.objects.push(plant("t2", 16.0, Point::new(25.0, 5.0), None, 1));
    plan.site.objects.push(plant("t3", 4.0, Point::new(25.0, 15.0), None, 1));
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
    let Some(DripLaying::Plants(laying)) = plan.groups[0].drip.as_mut() else { panic!() };
    laying.other.push(PlantEmitters { plant: "t2".into(), each: Some(3), nozzle: Some("emitter-4".into()) });
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
    let q = open_tube(Length::from_ft(5.0), Length::from_in(0.170), 140.0, Pressure::from_psi(20.0));
    near(q.gpm(), 1.15, 0.01);
    let mut plan = garden(EmitterJoin::OpenEnd);
    let Some(DripLaying::Plants(laying)) = plan.groups[0].drip.as_mut() else { panic!() };
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

#[test]
fn a_ring_shares_what_the_emitter_before_it_lets_through() {
    // By hand: 2 gph into twelve of 0.5 gph at 25 psi, 25 (2 / 6)^2 = 2.78 psi are left in the ring, 0.167 gph each.
    let catalogue = Catalogue::builtin();
    let micro = "micro-tube 1/4in".parse().unwrap();
    let gph = |x: f64| Flow::from_gpm(x / 60.0);
    let ring = |feed, canopy, each| fed_ring(catalogue, &micro, gph(feed), Length::from_ft(canopy), each);
    let twelve = ring(2.0, 4.0, Some(12)).unwrap();
    near(twelve.pressure.psi(), 25.0 / 9.0, 1e-3);
    near(twelve.each.gpm() * 60.0, 2.0 / 12.0, 1e-6);
    near(twelve.length().ft(), 12.0, 1e-9);
    near(twelve.radius().ft(), 12.0 / (2.0 * std::f64::consts::PI), 1e-9);
    // One for each foot of a canopy's edge, 13 of 4 ft, no more than leave a psi: 20 of 2 gph, 25 (2 / 10)^2 = 1.0.
    assert_eq!(ring(2.0, 4.0, None).unwrap().count, 13);
    let wide = ring(2.0, 16.0, None).unwrap();
    assert_eq!(wide.count, 20);
    near(wide.pressure.psi(), 1.0, 1e-3);
    // Three of 0.5 gph are too tight for 1 gph (11 psi of the 10 to spare), three of 0.8 do: 25 (1 / 2.4)^2 = 4.3 psi.
    let three = ring(1.0, 1.0, Some(3)).unwrap();
    assert_eq!(three.tube, "quarter-0.8");
    near(three.pressure.psi(), 4.34, 0.01);
    // 4 gph pass no ring of three: at 10 psi 2.4 gph x 0.632 = 1.52.
    let tight = ring(4.0, 1.0, Some(3)).unwrap_err();
    near(tight.most.gpm() * 60.0, 1.518, 1e-3);
}

#[test]
fn a_garden_of_rings_is_solved_with_what_is_left_in_them() {
    let at_tube = garden(EmitterJoin::AtTube);
    let mut plan = garden(EmitterJoin::FedRing);
    plan.groups[0].nozzle = "emitter-2".into();
    let laid = laid(&plan);
    // Ten shrubs of 4 ft with 13 in their rings, the tree with 20; 2 gph each.
    assert_eq!((laid.plants.len(), laid.emitters.len()), (11, 150));
    near(laid.flow().gpm() * 60.0, 22.0, 1e-3);
    assert_eq!(laid.micro_tubes.len(), 11);
    let shrub = laid.plants[0].ring.as_ref().unwrap();
    let edge = &laid.emitters[laid.plants[0].emitters.clone()];
    assert!(edge.iter().all(|e| (e.at.distance(laid.plants[0].at) - shrub.radius().m()).abs() < 1e-9));
    // What an emitter has to work with is less by what is left in its ring: 25 (2 / 6.5)^2 = 2.37 psi.
    near(shrub.pressure.psi(), 2.367, 1e-3);
    let pressure = |plan: &Plan| {
        let zone = zone_of(&Job::of(plan), &plan.valves[0]).unwrap();
        (zone.heads[0].nozzle.psi(), zone.heads[0].inlet.psi(), zone.flow.gpm() * 60.0)
    };
    let (works, inlet, flow) = pressure(&plan);
    near(inlet - works, 2.367, 1e-3);
    near(flow, 22.0, 1e-3);
    let (plain, same, _) = pressure(&at_tube);
    near(same - plain, 0.0, 1e-9);
    // Its parts: an emitter, a tee and 13 or 20 ft of tube with emitters to each.
    let job = Job::of(&plan);
    let list = crate::takeoff::takeoff(&job, &crate::assess::assess(&job));
    let bought = |part: &str| list.of(part).map(|l| l.used).sum::<f64>();
    near(bought("emitter-2"), 11.0, 1e-9);
    near(bought("micro-tee"), 11.0, 1e-9);
    near(bought("quarter-0.5-12in") / 0.3048, 150.0, 1e-6);
}

/// A row of shrubs 3 ft apart, each with two emitters of 1 gph.
fn row_of(shrubs: u32) -> Plan {
    let mut plan =
        bed(rect(0.0, -1.0, f64::from(shrubs) * 0.9144, 2.0), "emitter-1", 12.0, 18.0, Point::new(0.0, 0.0));
    plan.groups.clear();
    let end = Point::new(f64::from(shrubs) * 0.9144 - 0.3, 0.0);
    plan.site.objects.push(plant("t1", 3.0, Point::new(0.3, 0.0), Some(end), shrubs));
    plan
}

#[test]
fn plants_are_parted_where_one_line_does_not_feed_them() {
    let wish = DripWish { kind: Some(Kind::Emitter), ..DripWish::default() };
    let parts = |shrubs: u32| {
        let job = Job::of(&row_of(shrubs));
        let area = job.site.areas().next().expect("an area").0.id.clone();
        let design = design(&job, &area, &wish, None).expect("it is laid");
        let emitters: usize = design.parts.iter().map(|p| p.emitters.len()).sum();
        assert_eq!(emitters, 2 * shrubs as usize, "every plant is watered");
        design.parts.len()
    };
    // 100: 3.3 gpm over 300 ft of 3/4 in lose 1.3 psi of the 8 that 18 psi have over the 10 that are the
    // least.
    assert_eq!(parts(100), 1);
    // 200: 6.7 gpm over 600 ft lose 9.6 psi by Christiansen's F; halved, each half loses 1.3.
    assert_eq!(parts(200), 2);
}

#[test]
fn a_hill_that_no_number_of_parts_feeds_stays_one_line() {
    // 600 ft that rise by 20 %: a quarter of it rises 30 ft, and 8 psi are 18 ft. More parts are no answer, and are
    // not tried one by one.
    let mut plan = row_of(200);
    for object in &mut plan.site.objects {
        if let ObjectKind::Area(area) = &mut object.what {
            (area.slope_percent, area.slope_toward) = (20.0, Some(270.0));
        }
    }
    let job = Job::of(&plan);
    let area = job.site.areas().next().expect("an area").0.id.clone();
    let wish = DripWish { kind: Some(Kind::Emitter), ..DripWish::default() };
    assert_eq!(design(&job, &area, &wish, None).expect("it is laid").parts.len(), 1);
}
