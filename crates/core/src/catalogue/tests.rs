use super::*;
use crate::units::{Flow, Speed};

#[test]
fn every_table_reads_and_names_are_unique() {
    let c = Catalogue::builtin();
    for nozzle in &c.nozzles {
        assert!(
            c.class(nozzle.kind).low < c.class(nozzle.kind).nominal,
            "{}",
            nozzle.id
        );
        assert_eq!(
            c.nozzles.iter().filter(|n| n.id == nozzle.id).count(),
            1,
            "{}",
            nozzle.id
        );
    }
    for pipe in &c.pipes {
        assert_eq!(c.pipe(&pipe.id()), Some(pipe));
        assert_eq!(pipe.id().to_string().parse::<PipeId>().unwrap(), pipe.id());
    }
}

#[test]
fn matched_nozzles_give_a_quarter_for_a_quarter() {
    let n = Catalogue::builtin().nozzle("spray-12").unwrap();
    assert!((n.flow_for_arc(90).gpm() - 2.39 / 4.0).abs() < 1e-9);
    let r = Catalogue::builtin().nozzle("rotor-3").unwrap();
    assert_eq!(r.flow_for_arc(90), r.flow_for_arc(360));
}

#[test]
fn the_service_line_check_value_holds() {
    // 1 in copper type L at 7 ft/s carries 18.0 gpm.
    let pipe = Catalogue::builtin()
        .pipe(&"copper-l 1in".parse().unwrap())
        .unwrap();
    let v = Speed::in_pipe(Flow::from_gpm(18.0), pipe.inside);
    assert!((v.fps() - 7.0).abs() < 0.01);
}

#[test]
fn pipes_are_named_in_either_order() {
    assert_eq!(
        "1 1/2 in pvc-40".parse::<PipeId>().unwrap().to_string(),
        "pvc-40 1-1/2in"
    );
    assert_eq!(
        "class-200 3/4in".parse::<PipeId>().unwrap().to_string(),
        "class-200 3/4in"
    );
    assert!("3/4in".parse::<PipeId>().is_err());
}
