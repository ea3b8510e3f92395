//! Whole numbers one after the other that mostly go on by equal steps: kept as stretches.

/// Numbers, kept as stretches of which each goes on by equal steps.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct Steps {
    stretches: Vec<Stretch>,
    len: u32,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct Stretch {
    /// The place of its first number.
    from: u32,
    first: u32,
    /// By how much they go on; nothing yet of a single one.
    step: u32,
}

impl Stretch {
    fn at(self, place: u32) -> u32 {
        self.first.wrapping_add(self.step.wrapping_mul(place - self.from))
    }
}

impl Steps {
    pub(super) fn len(&self) -> usize {
        self.len as usize
    }

    /// Adds a number behind the others.
    pub(super) fn push(&mut self, number: u32) {
        match self.stretches.last_mut() {
            Some(last) if last.from + 1 == self.len => last.step = number.wrapping_sub(last.first),
            Some(last) if last.at(self.len) == number => {}
            _ => self.stretches.push(Stretch { from: self.len, first: number, step: 0 }),
        }
        self.len += 1;
    }

    /// Adds all of `others` behind them.
    pub(super) fn append(&mut self, others: &Self) {
        for (&stretch, end) in others.stretches.iter().zip(others.ends()) {
            let mut places = stretch.from..end;
            // Its first two tell how it goes on, if that is as the last one here does.
            places.by_ref().take(2).for_each(|place| self.push(stretch.at(place)));
            let goes_on = |last: &Stretch| {
                last.step == stretch.step && last.at(self.len) == stretch.at(places.start)
            };
            if !places.is_empty() && self.stretches.last().is_some_and(goes_on) {
                self.len += places.len() as u32;
            } else {
                places.for_each(|place| self.push(stretch.at(place)));
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
            let (first, final_one) = (stretch.first, stretch.at(end - 1));
            let grows = end - stretch.from == 1 || (final_one > first && stretch.step > 0);
            let follows = last.is_none_or(|last| last < first);
            last = Some(final_one);
            grows && follows
        })
    }

    /// Returns where `number` stands, of numbers that are rising.
    pub(super) fn place_of(&self, number: u32) -> Option<u32> {
        let next = self.stretches.partition_point(|stretch| stretch.first <= number);
        let at = next.checked_sub(1)?;
        let stretch = self.stretches[at];
        let end = self.stretches.get(next).map_or(self.len, |next| next.from);
        let off = number - stretch.first;
        let steps = if off == 0 { 0 } else { off.checked_div(stretch.step)? };
        let place = stretch.from.checked_add(steps)?;
        (place < end && stretch.at(place) == number).then_some(place)
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

    fn steps(numbers: &[u32]) -> Steps {
        let mut steps = Steps::default();
        numbers.iter().for_each(|number| steps.push(*number));
        steps
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
    }

    #[test]
    fn a_number_is_found_where_it_stands() {
        let numbers = [1, 4, 5, 8, 9, 12, 20, 21, 22, 40];
        let found = steps(&numbers);
        for number in 0..50 {
            let place = numbers.iter().position(|known| *known == number);
            assert_eq!(found.place_of(number), place.map(|place| place as u32), "{number}");
        }
    }
}
