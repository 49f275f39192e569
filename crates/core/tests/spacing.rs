//! Head to head both ways: grids of heads whose gaps are known, on lawns whose rows are.

use fenlo_core::coverage::{Direction, Reaching, gaps};
use fenlo_core::site::{Outline, Point, Shape};

fn lawn(w: f64, h: f64) -> Shape {
    let corners = [(0.0, 0.0), (w, 0.0), (w, h), (0.0, h)];
    Shape::plain(Outline::straight(&corners.map(|(x, y)| Point::new(x, y))))
}

/// Heads on a grid over a lawn, `cols` by `rows`, each throwing so far, quarters at corners and halves on
/// edges.
fn grid(w: f64, h: f64, cols: usize, rows: usize, throw: f64) -> Vec<Reaching> {
    let mut heads = Vec::new();
    for row in 0..rows {
        for col in 0..cols {
            let inward = |i: usize, n: usize| match i {
                0 => 1.0,
                i if i + 1 == n => -1.0,
                _ => 0.0f64,
            };
            let (dx, dy) = (inward(col, cols), inward(row, rows));
            let arc = match (dx == 0.0, dy == 0.0) {
                (true, true) => 360,
                (false, false) => 90,
                _ => 180,
            };
            heads.push(Reaching {
                at: Point::new(w * col as f64 / (cols - 1) as f64, h * row as f64 / (rows - 1) as f64),
                throw,
                arc,
                facing: dy.atan2(dx).to_degrees().rem_euclid(360.0),
            });
        }
    }
    heads
}

#[test]
fn heads_as_far_apart_as_they_throw_leave_no_gap() {
    // 12 by 9 m, heads every 3 m, throws of 3 m; also of 2.9, where the gap is 1.03 of the throw.
    for throw in [3.0, 2.9] {
        assert!(gaps(&lawn(12.0, 9.0), &grid(12.0, 9.0, 5, 4, throw)).is_empty(), "{throw} m");
    }
    // 2.5 m: 1.2 of the throw, for every head.
    assert_eq!(gaps(&lawn(12.0, 9.0), &grid(12.0, 9.0, 5, 4, 2.5)).len(), 20);
}

#[test]
fn rows_too_far_apart_are_found_though_the_next_head_in_the_row_is_near() {
    // Along the row 2 m, between the rows 4.5 m; throws of 3 m.
    let heads = grid(12.0, 9.0, 7, 3, 3.0);
    let found = gaps(&lawn(12.0, 9.0), &heads);
    assert_eq!(found.len(), heads.len());
    for gap in &found {
        assert_eq!(gap.along, Direction::Rows);
        assert!((gap.gap - 4.5).abs() < 0.2, "{gap:?}");
    }
    // The other way round it is the row that is too wide: the lawn's longest edge says which is which.
    let found = gaps(&lawn(12.0, 9.0), &grid(12.0, 9.0, 3, 4, 3.2));
    assert!(found.iter().all(|g| g.along == Direction::Row && (g.gap - 6.0).abs() < 0.2));
    assert_eq!(found.len(), 12);
}

#[test]
fn where_the_ground_ends_nobody_need_stand() {
    // One row along the middle of a strip 2 m wide: nothing to reach across.
    let heads: Vec<Reaching> = (0..5)
        .map(|i| Reaching {
            at: Point::new(1.0 + 2.5 * f64::from(i), 1.0),
            throw: 2.6,
            arc: 360,
            facing: 0.0,
        })
        .collect();
    assert!(gaps(&lawn(12.0, 2.0), &heads).is_empty());
    // The same row on 9 m of ground leaves both sides dry.
    let moved: Vec<Reaching> = heads.iter().map(|h| Reaching { at: Point::new(h.at.x, 4.5), ..*h }).collect();
    let found = gaps(&lawn(12.0, 9.0), &moved);
    assert!(found.len() == 5 && found.iter().all(|g| g.along == Direction::Rows), "{found:?}");
}

#[test]
fn one_head_or_none_has_no_neighbour_to_reach() {
    let heads = grid(12.0, 9.0, 2, 2, 3.0);
    assert!(gaps(&lawn(12.0, 9.0), &[]).is_empty());
    assert!(gaps(&lawn(12.0, 9.0), &heads[..1]).is_empty());
    // Two far apart do not reach each other at all.
    let found = gaps(&lawn(12.0, 9.0), &heads[..2]);
    assert!(found.iter().all(|g| g.gap > 3.0) && found.len() == 2, "{found:?}");
}

#[test]
fn turned_and_mirrored_lawns_have_the_gaps_that_they_had() {
    let turn = |p: Point| Point::new(-p.y, p.x);
    let mirror = |p: Point| Point::new(-p.x, p.y);
    let (w, h) = (12.0, 9.0);
    let heads = grid(w, h, 7, 3, 3.0);
    let straight = gaps(&lawn(w, h), &heads).len();
    let moved = |of: &dyn Fn(Point) -> Point, facing: &dyn Fn(f64) -> f64| {
        let corners = [(0.0, 0.0), (w, 0.0), (w, h), (0.0, h)].map(|(x, y)| of(Point::new(x, y)));
        let heads: Vec<Reaching> = heads
            .iter()
            .map(|head| Reaching { at: of(head.at), facing: facing(head.facing).rem_euclid(360.0), ..*head })
            .collect();
        gaps(&Shape::plain(Outline::straight(&corners)), &heads).len()
    };
    assert_eq!(moved(&turn, &|d| d + 90.0), straight);
    assert_eq!(moved(&mirror, &|d| 180.0 - d), straight);
}
