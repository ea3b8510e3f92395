//! Ways through a function: as many copies of it, each of which knows its own place.

/// Lists the copies of a function for every place, as the pointers of its type.
macro_rules! ways {
    ($function:ident as $type:ty) => {
        ways!(@ $function, $type;
            0 1 2 3 4 5 6 7 8 9 10 11 12 13 14 15 16 17 18 19 20 21 22 23 24 25 26 27 28 29 30 31)
    };
    (@ $function:ident, $type:ty; $($place:literal)*) => {
        [$($function::<$place> as $type as $crate::Pointer),*]
    };
}

pub(super) use ways;
