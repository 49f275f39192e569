//! Figures of docs/PERFORMANCE.md: `cargo bench -p fenlo-core`.

use criterion::{BenchmarkId, Criterion, Throughput, criterion_group, criterion_main};
use fenlo_core::assess::{assess, assess_after};
use fenlo_core::job::Job;
use fenlo_core::network::{Emission, Emitter, Link, LinkKind, Network, Node, Source, SourceLaw, solve};
use fenlo_core::plan::{
    ArcCount, Arrangement, Edit, HeadGroup, Plan, Reading, ReadingKind, Regulation, Valve,
};
use fenlo_core::regulation::compare;
use fenlo_core::remedies;
use fenlo_core::units::{Flow, Length, Pressure, UnitSystem};
use fenlo_core::zone::{inputs_of, zone_model, zone_of};
use std::hint::black_box;

/// As the program has it.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

/// Zones of 20 heads, each behind a main and a valve of its own.
fn site(valves: usize) -> Job {
    let mut plan = Plan::new("Bench", UnitSystem::Us);
    let pressure = Pressure::from_psi(80.0);
    plan.supplies[0].readings.push(Reading {
        kind: ReadingKind::Static { pressure },
        when: String::new(),
        instrument: String::new(),
        tap: String::new(),
    });
    for i in 0..valves {
        let regulation =
            if i % 2 == 0 { Regulation::None } else { Regulation::Valve { set: Pressure::from_psi(45.0) } };
        plan.valves.push(Valve { regulation, ..Valve::new(&format!("v{i}"), &format!("Valve {i}"), "s1") });
        plan.groups.push(HeadGroup {
            listed: vec![ArcCount { arc: 180, count: 20, valve: Some(format!("v{i}")) }],
            arrangement: if i % 3 == 0 { Arrangement::H } else { Arrangement::Chain },
            spacing: Length::from_ft(18.0),
            pipe: "class-200 1-1/4in".parse().expect("a pipe"),
            distance: Length::from_ft(30.0 + i as f64),
            rise: Length::from_ft((i % 7) as f64),
            ..HeadGroup::new(&format!("g{i}"), &format!("Area {i}"), "rotator-20")
        });
    }
    Job::new(plan)
}

/// A square grid of pipes, looped everywhere, with a head at every second node.
fn grid(nodes: usize) -> Network {
    let side = (nodes as f64).sqrt().ceil() as usize;
    let mut network = Network { name: format!("grid {nodes}"), ..Network::default() };
    for i in 0..nodes {
        network
            .nodes
            .push(Node { id: format!("n{i}"), elevation: Length::from_m(((i * 37) % 11) as f64 * 0.1) });
    }
    let mut pipe = |from: usize, to: usize, mm: f64| {
        let kind = LinkKind::Pipe {
            length: Length::from_m(5.0),
            inside: Length::from_m(mm / 1000.0),
            roughness_c: 150.0,
            minor_loss_k: 0.0,
            open: true,
        };
        network.links.push(Link { id: format!("p{from}-{to}"), from, to, kind });
    };
    for i in 0..nodes {
        // The first row and column are mains.
        if (i + 1) % side != 0 && i + 1 < nodes {
            pipe(i, i + 1, if i < side { 400.0 } else { 40.0 });
        }
        if i + side < nodes {
            pipe(i, i + side, if i % side == 0 { 400.0 } else { 40.0 });
        }
    }
    for i in (0..nodes).step_by(2) {
        let emission = Emission::Orifice {
            flow: Flow::from_lpm(0.5),
            at_pressure: Pressure::from_kpa(200.0),
            exponent: 0.5,
            regulator: None,
        };
        network.emitters.push(Emitter { id: format!("e{i}"), node: i, emission });
    }
    let law = SourceLaw::Measured {
        static_pressure: Pressure::from_kpa(600.0),
        drop: Pressure::ZERO,
        at_flow: Flow::from_lpm(1.0),
        exponent: 2.0,
    };
    network.sources.push(Source { node: 0, law });
    network
}

/// A tree: a main with a lateral of 20 heads at every node.
fn tree(nodes: usize) -> Network {
    let mut network = grid(4);
    network.links.clear();
    network.emitters.clear();
    network.nodes.clear();
    for i in 0..nodes {
        network.nodes.push(Node { id: format!("n{i}"), elevation: Length::ZERO });
        let on_main = i % 21 == 0;
        if i > 0 {
            let (from, mm) = if on_main { (i - 21, 500.0) } else { (i - 1, 40.0) };
            let kind = LinkKind::Pipe {
                length: Length::from_m(4.0),
                inside: Length::from_m(mm / 1000.0),
                roughness_c: 150.0,
                minor_loss_k: 0.0,
                open: true,
            };
            network.links.push(Link { id: format!("p{i}"), from, to: i, kind });
        }
        if !on_main {
            let emission = Emission::Orifice {
                flow: Flow::from_lpm(0.2),
                at_pressure: Pressure::from_kpa(200.0),
                exponent: 0.5,
                regulator: None,
            };
            network.emitters.push(Emitter { id: format!("e{i}"), node: i, emission });
        }
    }
    network
}

/// Drip grids as they are laid: rows of 50 emitters between a supply and a flush header, every row
/// closing a loop, blocks of 20 rows on a main.
fn drip(nodes: usize) -> Network {
    let mut network = Network { name: format!("drip {nodes}"), ..Network::default() };
    let node = |network: &mut Network| {
        let i = network.nodes.len();
        network.nodes.push(Node { id: format!("n{i}"), elevation: Length::ZERO });
        i
    };
    let pipe = |network: &mut Network, from: usize, to: usize, mm: f64, m: f64| {
        let kind = LinkKind::Pipe {
            length: Length::from_m(m),
            inside: Length::from_m(mm / 1000.0),
            roughness_c: 150.0,
            minor_loss_k: 0.0,
            open: true,
        };
        network.links.push(Link { id: format!("p{}", network.links.len()), from, to, kind });
    };
    let mut main = node(&mut network);
    let law = SourceLaw::Measured {
        static_pressure: Pressure::from_kpa(600.0),
        drop: Pressure::ZERO,
        at_flow: Flow::from_lpm(1.0),
        exponent: 2.0,
    };
    network.sources.push(Source { node: 0, law });
    while network.nodes.len() + 1 + 20 * 52 <= nodes.max(1_042) {
        let next = node(&mut network);
        pipe(&mut network, main, next, 300.0, 10.0);
        main = next;
        let (mut head, mut flush) = (main, None);
        for _ in 0..20 {
            let start = node(&mut network);
            pipe(&mut network, head, start, 50.0, 0.5);
            head = start;
            let mut at = start;
            for _ in 0..50 {
                let to = node(&mut network);
                pipe(&mut network, at, to, 14.0, 0.3);
                let emission =
                    Emission::Compensating { flow: Flow::from_lpm(0.038), min: Pressure::from_psi(8.5) };
                network.emitters.push(Emitter { id: format!("e{to}"), node: to, emission });
                at = to;
            }
            let end = node(&mut network);
            pipe(&mut network, at, end, 14.0, 0.3);
            if let Some(before) = flush.replace(end) {
                pipe(&mut network, before, end, 25.0, 0.5);
            }
        }
    }
    network
}

fn zones(c: &mut Criterion) {
    let job = site(100);
    let model = zone_model(&inputs_of(&job, &job.valves[1]).expect("a supply"));
    c.bench_function("zone of 20 heads, solved", |b| b.iter(|| solve(black_box(&model.network))));
    c.bench_function("zone of 20 heads, built, solved and read off", |b| {
        b.iter(|| zone_of(&job, &job.valves[1]))
    });
    c.bench_function("regulator options of a zone of 20 heads, one site of 25 valves", |b| {
        let small = site(25);
        b.iter(|| compare(&small, &small.valves[0]));
    });
    let mut group = c.benchmark_group("site");
    group.sample_size(20);
    group.bench_function("2000 heads on 100 valves, every zone solved", |b| {
        b.iter(|| job.valves.iter().map(|v| zone_of(&job, v)).filter(Result::is_ok).count());
    });
    let small = site(25);
    group.bench_function("25 valves assessed with findings", |b| b.iter(|| assess(&small)));
    let before = assess(&small);
    group.bench_function("25 valves: remedies of all findings", |b| {
        b.iter(|| {
            let zones =
                small.valves.iter().map(|v| remedies::of_zone(&small, &before, v).len()).sum::<usize>();
            zones + remedies::of_supply(&small, &before, &small.supplies[0]).len()
        })
    });
    let edit = Edit::put(HeadGroup { distance: Length::from_ft(77.0), ..small.groups[3].clone() });
    group.bench_function("25 valves: a group edited, from edit to assessment", |b| {
        b.iter(|| {
            let (after, _) = small.apply(&edit).expect("applies");
            assess_after(&after, Some(&before))
        })
    });
    group.finish();
}

fn networks(c: &mut Criterion) {
    let mut group = c.benchmark_group("network");
    group.sample_size(10);
    for nodes in [1_000, 10_000, 100_000] {
        group.throughput(Throughput::Elements(nodes as u64));
        for (kind, network) in [("tree", tree(nodes)), ("drip", drip(nodes)), ("grid", grid(nodes))] {
            group.bench_with_input(BenchmarkId::new(kind, nodes), &network, |b, n| {
                b.iter(|| solve(n).expect("balances"))
            });
        }
    }
    group.finish();
}

criterion_group!(benches, zones, networks);
criterion_main!(benches);
