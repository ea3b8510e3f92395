//! Graphics cards that only their maker's library shows: NVML, where it is installed.
//!
//! The library is opened when laps are run and never needed: without it there are no channels.

use super::super::machine::Machine;
use super::channel::{Channel, Sensor, present};
use honest_lap_core::record::Quantity;
use libloading::{Library, Symbol};
use std::ffi::{c_uint, c_void};

const NAME: &str = "libnvidia-ml.so.1";
/// NVML_SUCCESS.
const DONE: c_uint = 0;
/// NVML_CLOCK_GRAPHICS.
const GRAPHICS: c_uint = 0;

type Init = unsafe extern "C" fn() -> c_uint;
type Count = unsafe extern "C" fn(*mut c_uint) -> c_uint;
type Handle = unsafe extern "C" fn(c_uint, *mut *mut c_void) -> c_uint;
type ReadUse = unsafe extern "C" fn(*mut c_void, *mut Utilisation) -> c_uint;
type ReadMemory = unsafe extern "C" fn(*mut c_void, *mut MemoryInfo) -> c_uint;
type ReadClock = unsafe extern "C" fn(*mut c_void, c_uint, *mut c_uint) -> c_uint;
type ReadPower = unsafe extern "C" fn(*mut c_void, *mut c_uint) -> c_uint;

/// nvmlUtilization_t.
#[repr(C)]
#[derive(Default)]
struct Utilisation {
    gpu: c_uint,
    memory: c_uint,
}

/// nvmlMemory_t.
#[repr(C)]
#[derive(Default)]
struct MemoryInfo {
    total: u64,
    free: u64,
    used: u64,
}

struct Cards {
    library: Library,
    cards: Vec<*mut c_void>,
    channels: Vec<Channel>,
}

// SAFETY: the handles belong to the library, which may be called from any thread (NVML API
// reference, "thread safe"); nothing here is shared.
#[expect(unsafe_code, reason = "handles of a C library are raw pointers")]
unsafe impl Send for Cards {}

pub(super) fn open(machine: &Machine) -> Option<Box<dyn Sensor>> {
    // A simulated machine has no library.
    machine.is_here().then(cards)?.and_then(present)
}

#[expect(unsafe_code, reason = "calls a C library")]
fn cards() -> Option<Cards> {
    // SAFETY: loading runs the initialisers of a library that the system installed for this.
    let library = unsafe { Library::new(NAME) }.ok()?;
    let mut cards = Vec::new();
    // SAFETY: names and types are those of the NVML API reference; every pointer is to a live,
    // writable value of the type asked for.
    unsafe {
        let init: Symbol<'_, Init> = library.get(b"nvmlInit_v2\0").ok()?;
        if init() != DONE {
            return None;
        }
        let count_of: Symbol<'_, Count> = library.get(b"nvmlDeviceGetCount_v2\0").ok()?;
        let handle_of: Symbol<'_, Handle> = library.get(b"nvmlDeviceGetHandleByIndex_v2\0").ok()?;
        let mut count = 0;
        if count_of(&raw mut count) != DONE {
            return None;
        }
        for index in 0..count {
            let mut card = std::ptr::null_mut();
            if handle_of(index, &raw mut card) == DONE {
                cards.push(card);
            }
        }
    }
    let of = |index: usize| {
        [Quantity::GraphicsUse, Quantity::GraphicsMemory, Quantity::GraphicsClock, Quantity::Power]
            .map(|quantity| Channel::new(quantity, format!("nvml {index}")))
    };
    let channels = (0..cards.len()).flat_map(of).collect();
    Some(Cards { library, cards, channels })
}

impl Cards {
    /// Calls the function `name` on `card` for a value of type `T`.
    #[expect(unsafe_code, reason = "calls a C library")]
    fn ask<F: Copy, T: Default>(
        &self,
        name: &[u8],
        call: impl Fn(F, *mut T) -> c_uint,
    ) -> Option<T> {
        // SAFETY: each caller names a function of the NVML API together with its own type.
        let function: Symbol<'_, F> = unsafe { self.library.get(name) }.ok()?;
        let mut value = T::default();
        (call(*function, &raw mut value) == DONE).then_some(value)
    }
}

impl Sensor for Cards {
    fn channels(&self) -> &[Channel] {
        &self.channels
    }

    #[expect(unsafe_code, reason = "calls a C library")]
    fn read(&mut self, _seconds: f64, out: &mut Vec<Option<f64>>) {
        for &card in &self.cards {
            // SAFETY: `card` came from the library and the types are those of its API reference;
            // `to` is a live, writable value.
            let used = self
                .ask(b"nvmlDeviceGetUtilizationRates\0", |f: ReadUse, to| unsafe { f(card, to) });
            // SAFETY: as above.
            let memory =
                self.ask(b"nvmlDeviceGetMemoryInfo\0", |f: ReadMemory, to| unsafe { f(card, to) });
            // SAFETY: as above.
            let clock = self.ask(b"nvmlDeviceGetClockInfo\0", |f: ReadClock, to| unsafe {
                f(card, GRAPHICS, to)
            });
            // SAFETY: as above.
            let power =
                self.ask(b"nvmlDeviceGetPowerUsage\0", |f: ReadPower, to| unsafe { f(card, to) });
            out.push(used.map(|used: Utilisation| f64::from(used.gpu) / 100.0));
            out.push(memory.map(|memory: MemoryInfo| memory.used as f64));
            out.push(clock.map(f64::from));
            out.push(power.map(|milliwatts: c_uint| f64::from(milliwatts) / 1e3));
        }
    }
}
