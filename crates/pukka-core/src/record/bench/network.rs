//! Every series/parallel network of a few resistors, fast.
//!
//! A network is a resistor, or two smaller networks in series or in parallel; every series/parallel network is one of
//! those. They are made size by size, for each *handful* (so many of each kind) once, and of one handful two that come
//! to the same ohms are one. The largest size is looked at but not kept: it is nine tenths of them.

/// Count of each kind, three bits a kind.
type Handful = u128;

const BITS: usize = 3;
/// The most kinds a handful holds.
pub const MOST_KINDS: usize = 40;
/// The most resistors in one network.
pub const MOST_PARTS: usize = 6;
/// Ohms that are one and the same, relatively.
const SAME: f64 = 1e-12;

/// Construction of a network.
#[derive(Debug, Clone, Copy)]
pub enum Construction {
    /// A resistor of this kind.
    Resistor(usize),
    /// Two networks that were made before.
    Joined {
        /// In series, else in parallel.
        series: bool,
        /// The one.
        a: usize,
        /// The other.
        b: usize,
    },
}

/// A network, as it is shown to a visitor.
#[derive(Debug, Clone, Copy)]
pub struct Network {
    /// Ohms.
    pub ohm: f64,
    /// Number of resistors in it.
    pub parts: usize,
    /// Construction.
    pub made: Construction,
    /// Content. In the largest size one network may be shown more than once: of one handful, with the same ohms.
    pub handful: u128,
}

/// Networks of one handful.
struct Group {
    handful: Handful,
    from: usize,
    to: usize,
}

/// The networks that were kept, by which others are described.
pub struct Catalogue {
    made: Vec<(f64, Construction)>,
    /// Number of resistors that the largest networks looked at have.
    pub largest: usize,
}

impl Catalogue {
    /// Ohms of a kept network, and how it is made.
    pub fn get(&self, at: usize) -> Option<(f64, Construction)> {
        self.made.get(at).copied()
    }
}

/// Limits of the search.
#[derive(Debug, Clone, Copy)]
pub struct Reach {
    /// Resistors in a network, at most.
    pub parts: usize,
    /// Networks of the largest size beyond which one resistor less is used, so that an answer never takes seconds.
    pub networks: usize,
}

impl Reach {
    /// All that a bench asks for.
    pub const FULL: Self = Self { parts: MOST_PARTS, networks: 20_000_000 };
}

/// Shows `visit` every network within `reach`: `ohms` of each kind, and at most so many of each.
pub fn every(ohms: &[f64], at_most: &[usize], reach: Reach, mut visit: impl FnMut(Network)) -> Catalogue {
    let kinds = ohms.len().min(MOST_KINDS);
    let mut kept = Catalogue { made: Vec::new(), largest: 1 };
    let mut sizes: Vec<Vec<Group>> = vec![Vec::new(), Vec::new()];
    for kind in (0..kinds).filter(|kind| at_most[*kind] > 0) {
        let from = kept.made.len();
        let handful = 1 << (BITS * kind);
        kept.made.push((ohms[kind], Construction::Resistor(kind)));
        sizes[1].push(Group { handful, from, to: from + 1 });
        visit(Network { ohm: ohms[kind], parts: 1, made: Construction::Resistor(kind), handful });
    }
    let largest = largest_size(kinds, at_most, reach);
    for size in 2..=largest {
        kept.largest = size;
        let last = size == largest;
        let mut pairs = pairs_of(&sizes, size, kinds, at_most);
        if last {
            for pair in &pairs {
                join(&kept.made, pair.a, pair.b, |ohm, made| visit(Network { ohm, parts: size, made, handful: pair.handful }));
            }
            break;
        }
        pairs.sort_by_key(|pair| pair.handful);
        let mut groups = Vec::new();
        for same in pairs.chunk_by(|x, y| x.handful == y.handful) {
            let mut made = Vec::new();
            for pair in same {
                join(&kept.made, pair.a, pair.b, |ohm, how| made.push((ohm, how)));
            }
            made.sort_by(|x, y| x.0.total_cmp(&y.0));
            made.dedup_by(|x, y| (x.0 - y.0).abs() <= SAME * x.0);
            let from = kept.made.len();
            let handful = same[0].handful;
            for (ohm, how) in &made {
                visit(Network { ohm: *ohm, parts: size, made: *how, handful });
            }
            kept.made.extend(made);
            groups.push(Group { handful, from, to: kept.made.len() });
        }
        sizes.push(groups);
    }
    kept
}

#[derive(Clone, Copy)]
struct Pair {
    handful: Handful,
    a: (usize, usize),
    b: (usize, usize),
}

/// Every two groups that together make a handful of this size, each two once.
fn pairs_of(sizes: &[Vec<Group>], size: usize, kinds: usize, at_most: &[usize]) -> Vec<Pair> {
    let mut pairs = Vec::new();
    for one in 1..=size / 2 {
        let other = size - one;
        for a in &sizes[one] {
            for b in &sizes[other] {
                // Of two of one size, each unordered pair once.
                if (one < other || a.handful <= b.handful) && fits(a.handful + b.handful, kinds, at_most) {
                    pairs.push(Pair { handful: a.handful + b.handful, a: (a.from, a.to), b: (b.from, b.to) });
                }
            }
        }
    }
    pairs
}

fn fits(handful: Handful, kinds: usize, at_most: &[usize]) -> bool {
    (0..kinds).all(|kind| ((handful >> (BITS * kind)) & 0b111) as usize <= at_most[kind])
}

fn join(made: &[(f64, Construction)], a: (usize, usize), b: (usize, usize), mut with: impl FnMut(f64, Construction)) {
    for i in a.0..a.1 {
        let x = made[i].0;
        // A handful joined to itself: each unordered pair of its networks once.
        let from = if a.0 == b.0 { i } else { b.0 };
        for (j, (y, _)) in made.iter().enumerate().take(b.1).skip(from) {
            let sum = x + y;
            with(sum, Construction::Joined { series: true, a: i, b: j });
            with(x * y / sum, Construction::Joined { series: false, a: i, b: j });
        }
    }
}

/// The largest size that can be looked through in good time.
fn largest_size(kinds: usize, at_most: &[usize], reach: Reach) -> usize {
    let parts: usize = at_most.iter().take(kinds).sum();
    let most = reach.parts.min(MOST_PARTS).min(parts.max(1));
    (1..=most).rev().find(|size| bound(kinds, at_most, *size) <= reach.networks).unwrap_or(1)
}

/// An upper bound of the networks of a size: handfuls of it, times the series/parallel networks of so many unlike parts.
fn bound(kinds: usize, at_most: &[usize], size: usize) -> usize {
    const UNLIKE: [usize; MOST_PARTS + 1] = [0, 1, 2, 8, 52, 472, 5_504];
    // Handfuls of each size so far: a kind adds 0 … as many as there are.
    let mut handfuls = vec![0usize; size + 1];
    handfuls[0] = 1;
    for most in at_most.iter().take(kinds) {
        for n in (1..=size).rev() {
            handfuls[n] += (1..=(*most).min(n)).map(|taken| handfuls[n - taken]).sum::<usize>();
        }
    }
    handfuls[size].saturating_mul(UNLIKE[size])
}
