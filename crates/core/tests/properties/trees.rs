//! Downtime climbing a tree that changes: nothing is lost, nothing counts twice.

use proptest::prelude::*;
use tally_core::{
    ground::{
        ids::AssetId,
        spans::total_ms,
        time::{Instant, Span},
    },
    plant::{
        assets::{Basis, EffectSpan, Node, ParentEffect, Placement, Tree},
        downtime::{DowntimeKind, Piece, Ways, chain::reach, counted},
    },
};

const END: i64 = 200;

fn at(second: i64) -> Instant {
    Instant::from_ms(second * 1000)
}

fn node(id: i64, places: &[(i64, i64, i64)], effect: &ParentEffect) -> Node {
    Node {
        id: AssetId(id),
        placements: places
            .iter()
            .map(|&(parent, from, to)| Placement {
                parent: (parent >= 0).then_some(AssetId(parent)),
                from: at(from),
                to: at(to),
            })
            .collect(),
        effects: vec![EffectSpan { effect: effect.clone(), from: at(0), to: at(END) }],
        life: Span::ALWAYS,
    }
}

/// Two halls 1 and 2 below site 0; machines 3 to 6, each in one hall and from some second on maybe in the other.
fn halls(moves: &[(bool, i64)], effect: &ParentEffect) -> Tree {
    halls_with_lives(moves, effect, &[])
}

/// As [`halls`], with machines that were commissioned and retired, where a life is given.
fn halls_with_lives(moves: &[(bool, i64)], effect: &ParentEffect, lives: &[Span]) -> Tree {
    let mut nodes = vec![
        node(0, &[(-1, 0, END)], &ParentEffect::No),
        node(1, &[(0, 0, END)], &ParentEffect::Yes),
        node(2, &[(0, 0, END)], &ParentEffect::Yes),
    ];
    for (place, (begins_in_one, moved)) in moves.iter().enumerate() {
        let (first, second) = if *begins_in_one { (1, 2) } else { (2, 1) };
        let mut machine = node(3 + place as i64, &[(first, 0, *moved), (second, *moved, END)], effect);
        machine.life = lives.get(place).copied().unwrap_or(Span::ALWAYS);
        nodes.push(machine);
    }
    Tree::new(nodes)
}

fn pieces(rows: &[(usize, i64, i64)]) -> Vec<(usize, Piece)> {
    rows.iter()
        .enumerate()
        .map(|(row, &(machine, start, length))| {
            let span = Span::new(at(start), at(start + length)).unwrap();
            (3 + machine, Piece { span, kind: DowntimeKind::Unplanned, row_start: at(start), row: row as i64 })
        })
        .collect()
}

fn moves() -> impl Strategy<Value = Vec<(bool, i64)>> {
    prop::collection::vec((any::<bool>(), 1i64..END), 4)
}

fn rows() -> impl Strategy<Value = Vec<(usize, i64, i64)>> {
    prop::collection::vec((0usize..4, 0i64..150, 1i64..50), 0..12)
}

/// What an asset's being down does to its parent: one of a few.
fn effect(which: u8) -> ParentEffect {
    match which {
        0..=3 => ParentEffect::Yes,
        4 => ParentEffect::No,
        needs => ParentEffect::Group { name: "g".into(), needs: u32::from(needs) - 4 },
    }
}

/// Any tree: of each asset its first parent and maybe a second one, from when on; its effect, maybe another from when on; its
/// life. Parents come earlier in the list.
fn trees() -> impl Strategy<Value = Tree> {
    let change = || prop::option::weighted(0.2, 1i64..END);
    let life = prop::option::weighted(0.2, (0i64..150, 1i64..END));
    let asset = (0usize..12, 0usize..12, change(), 0u8..7, 0u8..7, change(), life);
    prop::collection::vec(asset, 1..12).prop_map(|assets| {
        let nodes = assets.into_iter().enumerate().map(|(id, (first, second, moved, was, is, turned, life))| {
            let parent = |pick: usize| if id == 0 { -1 } else { (pick % id) as i64 };
            let places = match moved {
                Some(moved) => vec![(parent(first), 0, moved), (parent(second), moved, END)],
                None => vec![(parent(first), 0, END)],
            };
            let mut made = node(id as i64, &places, &effect(was));
            if let Some(turned) = turned {
                made.effects[0].to = at(turned);
                made.effects.push(EffectSpan { effect: effect(is), from: at(turned), to: at(END) });
            }
            if let Some((from, length)) = life {
                made.life = Span::new(at(from), at(from + length)).unwrap();
            }
            made
        });
        Tree::new(nodes.collect())
    })
}

proptest! {
    /// The quick way up is the long way: for every asset of any tree that changes, each row counts as long, on both bases; for some
    /// assets also with those rows alone that lead there.
    #[test]
    fn downtime_that_rises_is_downtime_that_is_carried(
        tree in trees(), rows in prop::collection::vec((0usize..12, 0i64..150, 1i64..50, 0u8..3), 0..14),
        window in (0i64..100, 1i64..100), today in 0i64..END, some in prop::collection::vec(0u32..12, 1..4),
    ) {
        let window = Span::new(at(window.0), at(window.0 + window.1)).unwrap();
        let some: Vec<u32> = some.into_iter().map(|asset| asset % tree.len() as u32).collect();
        let kinds = [DowntimeKind::Unplanned, DowntimeKind::Planned, DowntimeKind::External];
        let own = (0i64..).zip(&rows).filter_map(|(row, &(asset, start, length, kind))| {
            let asset = asset % tree.len();
            let span = Span::new(at(start), at(start + length)).unwrap().clip(tree.node(asset).life)?;
            Some((asset, Piece { span, kind: kinds[usize::from(kind)], row_start: at(start), row }))
        });
        let own: Vec<(usize, Piece)> = own.collect();
        for basis in [Basis::AsWas, Basis::AsIs] {
            let slow = reach(&tree, window, &own, basis, at(today));
            let ways = || Ways::new(&tree, window, basis, at(today));
            let own = own.iter().map(|(asset, piece)| (*asset as u32, *piece));
            let lead = ways().lead_to(&some);
            let leading = own.clone().filter(|(asset, _)| lead.as_ref().is_none_or(|lead| lead.contains(*asset as usize)));
            let to_some = ways().risen(leading).of(some.iter().copied());
            let quick = ways().risen(own).of(0..tree.len() as u32);
            for asset in 0..tree.len() {
                let slow = counted(slow.get(&asset).map_or(&[][..], |pieces| pieces));
                prop_assert_eq!(&counted(&quick[&(asset as u32)]), &slow, "asset {} {:?}", asset, basis);
                if let Some(pieces) = to_some.get(&(asset as u32)) {
                    prop_assert_eq!(&counted(pieces), &slow, "asset {} among some {:?}", asset, basis);
                }
            }
        }
    }

    #[test]
    fn each_second_counts_for_the_hall_the_machine_stood_in(moves in moves(), rows in rows()) {
        let tree = halls(&moves, &ParentEffect::Yes);
        let window = Span::new(at(0), at(END)).unwrap();
        let reached = reach(&tree, window, &pieces(&rows), Basis::AsWas, at(END - 1));
        let down = |machine: usize, second: i64| rows.iter().any(|&(m, start, length)| m == machine && (start..start + length).contains(&second));
        let stood_in = |machine: usize, second: i64| {
            let (begins_in_one, moved) = moves[machine];
            if (second < moved) == begins_in_one { 1 } else { 2 }
        };
        let seconds = |index: usize| {
            let spans: Vec<Span> = counted(reached.get(&index).map_or(&[][..], |p| p)).iter().map(|p| p.span).collect();
            total_ms(&spans) / 1000
        };
        for hall in [1, 2] {
            let slow = (0..END).filter(|&s| (0..4).any(|m| down(m, s) && stood_in(m, s) == hall)).count() as i64;
            prop_assert_eq!(seconds(hall), slow, "hall {}", hall);
        }
        let anywhere = (0..END).filter(|&s| (0..4).any(|m| down(m, s))).count() as i64;
        prop_assert_eq!(seconds(0), anywhere, "an overlap counts once above both halls");
    }

    #[test]
    fn by_todays_tree_all_of_it_counts_where_the_machine_stands_now(moves in moves(), rows in rows()) {
        let tree = halls(&moves, &ParentEffect::Yes);
        let window = Span::new(at(0), at(END)).unwrap();
        let reached = reach(&tree, window, &pieces(&rows), Basis::AsIs, at(END - 1));
        for hall in [1usize, 2] {
            let here = |m: usize| (if moves[m].0 { 2 } else { 1 }) == hall;
            let slow = (0..END).filter(|&s| rows.iter().any(|&(m, start, length)| here(m) && (start..start + length).contains(&s))).count() as i64;
            let spans: Vec<Span> = counted(reached.get(&hall).map_or(&[][..], |p| p)).iter().map(|p| p.span).collect();
            prop_assert_eq!(total_ms(&spans) / 1000, slow);
        }
    }

    #[test]
    fn a_group_is_judged_by_those_who_stand_there_at_the_time(moves in moves(), rows in rows(), needs in 1u32..4) {
        let tree = halls(&moves, &ParentEffect::Group { name: "g".into(), needs });
        let window = Span::new(at(0), at(END)).unwrap();
        let reached = reach(&tree, window, &pieces(&rows), Basis::AsWas, at(END - 1));
        for hall in [1usize, 2] {
            let slow = (0..END).filter(|&second| {
                let members: Vec<usize> = (0..4).filter(|&m| {
                    let (begins_in_one, moved) = moves[m];
                    (if (second < moved) == begins_in_one { 1 } else { 2 }) == hall
                }).collect();
                let down = members.iter().filter(|&&m| rows.iter().any(|&(r, start, length)| r == m && (start..start + length).contains(&second))).count();
                // Too few up because some are down; a group that is too small from the start is no downtime.
                down > 0 && members.len() - down < needs as usize
            }).count() as i64;
            let spans: Vec<Span> = counted(reached.get(&hall).map_or(&[][..], |p| p)).iter().map(|p| p.span).collect();
            prop_assert_eq!(total_ms(&spans) / 1000, slow, "hall {}", hall);
        }
    }

    /// Who is not commissioned yet, or retired, is none of the group: neither missing nor needed.
    #[test]
    fn a_group_is_made_of_those_in_their_lives(
        moves in moves(), rows in rows(), needs in 1u32..4, lives in prop::collection::vec((0i64..150, 1i64..END), 4),
    ) {
        let lives: Vec<Span> =
            lives.iter().map(|&(from, length)| Span::new(at(from), at((from + length).min(END))).unwrap()).collect();
        let tree = halls_with_lives(&moves, &ParentEffect::Group { name: "g".into(), needs }, &lives);
        let window = Span::new(at(0), at(END)).unwrap();
        // What is reported counts within the life of its machine only.
        let clipped = pieces(&rows).into_iter().filter_map(|(index, piece)| {
            Some((index, Piece { span: piece.span.clip(lives[index - 3])?, ..piece }))
        });
        let clipped: Vec<_> = clipped.collect();
        let reached = reach(&tree, window, &clipped, Basis::AsWas, at(END - 1));
        for hall in [1usize, 2] {
            let slow = (0..END).filter(|&second| {
                let stands = |m: usize| {
                    let (begins_in_one, moved) = moves[m];
                    (if (second < moved) == begins_in_one { 1 } else { 2 }) == hall && lives[m].contains(at(second))
                };
                let members: Vec<usize> = (0..4).filter(|&m| stands(m)).collect();
                let is_down = |m: usize| rows.iter().any(|&(r, start, length)| r == m && (start..start + length).contains(&second));
                let down = members.iter().filter(|&&m| is_down(m)).count();
                down > 0 && members.len() - down < needs as usize
            }).count() as i64;
            let spans: Vec<Span> = counted(reached.get(&hall).map_or(&[][..], |p| p)).iter().map(|p| p.span).collect();
            prop_assert_eq!(total_ms(&spans) / 1000, slow, "hall {}", hall);
        }
    }
}
