//! Whole numbers one after the other that mostly go on by two steps in turn, as the laps of a variant do that is run in turn
//! with others (A B B A): kept as stretches.

/// Numbers, kept as stretches of which each goes on by two steps in turn.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Steps {
    stretches: Vec<Stretch>,
    len: u32,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct Stretch {
    /// The place of its first number.
    from: u32,
    first: u32,
    /// By how much they go on, in turn; nothing yet where there are too few of them to tell.
    steps: [u32; 2],
}

/// So many numbers are a stretch, whatever they are.
const ANY: u32 = 3;

impl Stretch {
    fn at(self, place: u32) -> u32 {
        let ([one, other], past) = (self.steps, place - self.from);
        let pairs = one.wrapping_add(other).wrapping_mul(past / 2);
        self.first.wrapping_add(pairs).wrapping_add(if past % 2 == 1 { one } else { 0 })
    }

    /// Returns its last number where it ends at `end` and each is above the one before it.
    fn rises_to(self, end: u32) -> Option<u32> {
        let [one, other] = self.steps.map(u64::from);
        let past = u64::from(end - 1 - self.from);
        let last = u64::from(self.first) + (one + other) * (past / 2) + one * (past % 2);
        let rises = (past < 1 || one > 0) && (past < 2 || other > 0);
        u32::try_from(last).ok().filter(|_| rises)
    }
}

impl FromIterator<u32> for Steps {
    fn from_iter<I: IntoIterator<Item = u32>>(numbers: I) -> Self {
        let mut steps = Self::default();
        numbers.into_iter().for_each(|number| steps.push(number));
        steps
    }
}

impl Steps {
    /// Returns so many numbers from `first` on that go on by `steps` in turn.
    pub fn in_turn(first: u32, steps: [u32; 2], many: u32) -> Self {
        // As if they had come one by one: where they are too few to tell a step, there is none.
        let known = |at: usize| if many as usize > at + 1 { steps[at] } else { 0 };
        let stretch = Stretch { from: 0, first, steps: [known(0), known(1)] };
        Self { stretches: if many == 0 { Vec::new() } else { vec![stretch] }, len: many }
    }

    /// Returns how many there are.
    pub(super) fn len(&self) -> usize {
        self.len as usize
    }

    /// Adds a number behind the others.
    pub(super) fn push(&mut self, number: u32) {
        match self.stretches.last_mut() {
            Some(last) if self.len - last.from < ANY => {
                let before = last.at(self.len - 1);
                last.steps[(self.len - last.from - 1) as usize] = number.wrapping_sub(before);
            }
            Some(last) if last.at(self.len) == number => {}
            _ => self.stretches.push(Stretch { from: self.len, first: number, steps: [0; 2] }),
        }
        self.len += 1;
    }

    /// Adds all of `others` behind them.
    pub(super) fn append(&mut self, others: &Self) {
        for (&stretch, end) in others.stretches.iter().zip(others.ends()) {
            let mut places = stretch.from..end;
            // What is pushed goes on here where it can; where this stretch is its own, so does all of it.
            while let Some(place) = places.next() {
                self.push(stretch.at(place));
                let own = self.stretches.last().filter(|last| self.len - last.from >= ANY);
                let past = (self.len - own.map_or(self.len, |own| own.from)) % 2;
                let turned = (place + 1 - stretch.from) % 2 != past;
                let goes_on = |own: &Stretch| match turned {
                    false => own.steps == stretch.steps,
                    true => own.steps == [stretch.steps[1], stretch.steps[0]],
                };
                if own.is_some_and(goes_on) {
                    self.len += places.len() as u32;
                    break;
                }
            }
        }
    }

    /// Returns the numbers in their order.
    pub(super) fn iter(&self) -> impl Iterator<Item = u32> + '_ {
        let of = |(&stretch, end): (&Stretch, u32)| {
            (stretch.from..end).map(move |place| stretch.at(place))
        };
        self.stretches.iter().zip(self.ends()).flat_map(of)
    }

    /// Returns the number at `place`, below its length.
    pub(super) fn at(&self, place: u32) -> u32 {
        let next = self.stretches.partition_point(|stretch| stretch.from <= place);
        self.stretches[next - 1].at(place)
    }

    /// Returns whether each is above the one before it.
    pub(super) fn are_rising(&self) -> bool {
        let mut last = None;
        self.stretches.iter().zip(self.ends()).all(|(stretch, end)| {
            let (before, up_to) = (last, stretch.rises_to(end));
            last = up_to;
            up_to.is_some() && before.is_none_or(|before| before < stretch.first)
        })
    }

    /// Returns where `number` stands, of numbers that are rising.
    pub(super) fn place_of(&self, number: u32) -> Option<u32> {
        let next = self.stretches.partition_point(|stretch| stretch.first <= number);
        let stretch = self.stretches[next.checked_sub(1)?];
        let end = self.stretches.get(next).map_or(self.len, |next| next.from);
        let off = u64::from(number - stretch.first);
        let [one, other] = stretch.steps.map(u64::from);
        let (pairs, past) = match one + other {
            0 => (0, off),
            both => (off / both, off % both),
        };
        let near = 2 * pairs + u64::from(past > 0);
        // Of two numbers the second step is none, so that they lie closer than pairs do.
        let places = [near.saturating_sub(1), near].map(|past| u64::from(stretch.from) + past);
        let places = places.into_iter().filter_map(|place| u32::try_from(place).ok());
        let mut there = places.filter(|place| *place < end && stretch.at(*place) == number);
        there.next()
    }

    pub(super) fn shrink(&mut self) {
        self.stretches.shrink_to_fit();
    }

    fn ends(&self) -> impl Iterator<Item = u32> + '_ {
        self.stretches.iter().skip(1).map(|next| next.from).chain([self.len])
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stat::SplitMix;

    fn steps(numbers: &[u32]) -> Steps {
        numbers.iter().copied().collect()
    }

    #[test]
    fn numbers_come_back_in_their_order() {
        let none: &[u32] = &[];
        let all = [
            none,
            &[7],
            &[1, 2, 3, 4],
            &[1, 4, 5, 8, 9, 12],
            &[3, 3, 3],
            &[5, 2, 9, 9, u32::MAX, 0, 1],
            &[4_000_000_000, 4_200_000_000, 105_032_704],
        ];
        for numbers in all {
            let found = steps(numbers);
            assert_eq!(found.iter().collect::<Vec<u32>>(), numbers);
            assert_eq!(found.len(), numbers.len());
            let each: Vec<u32> = (0..numbers.len() as u32).map(|place| found.at(place)).collect();
            assert_eq!(each, numbers);
            let rising = numbers.windows(2).all(|pair| pair[0] < pair[1]);
            assert_eq!(found.are_rising(), rising, "{numbers:?}");
        }
        assert_eq!(steps(&[2, 4, 6, 8, 10]).stretches.len(), 1, "however many there are");
        assert_eq!(steps(&[1, 4, 5, 8, 9, 12, 13]).stretches.len(), 1, "and in turn");
        for many in 0..=5 {
            let found = Steps::in_turn(1, [3, 1], many);
            assert_eq!(found, steps(&[1, 4, 5, 8, 9][..many as usize]), "{many}");
        }
    }

    #[test]
    fn a_number_is_found_where_it_stands() {
        for numbers in [&[1, 4, 5, 8, 9, 12, 20, 21, 22, 40][..], &[3], &[3, 9], &[3, 9, 11, 17]] {
            let found = steps(numbers);
            for number in 0..50 {
                let place = numbers.iter().position(|known| *known == number);
                assert_eq!(found.place_of(number), place.map(|place| place as u32), "{number}");
            }
        }
    }

    #[test]
    fn what_is_appended_lies_as_if_it_had_come_one_by_one() {
        let mut random = SplitMix::new(3);
        for _ in 0..2_000 {
            let mut number = 0;
            // Mostly one way, so that stretches are long and meet.
            let numbers: Vec<u32> = (0..random.below(30))
                .map(|at| {
                    number += if random.below(9) == 0 {
                        random.below(4)
                    } else {
                        [3, 1][at as usize % 2]
                    };
                    number as u32
                })
                .collect();
            let (first, second) = numbers.split_at(random.below(numbers.len() as u64 + 1) as usize);
            let mut joined = steps(first);
            joined.append(&steps(second));
            assert_eq!(joined, steps(&numbers), "{first:?} {second:?}");
        }
    }
}
