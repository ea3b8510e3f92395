//! Orbits of a few bodies about two suns far apart, step by step: a solver with a known amount of work.
//!
//! A step of one sun's system is 936 FLOP: 72 pairs of bodies with 12 each, and 8 for each of the 9 bodies.

use clap::Args;
use std::io::{self, Write};

/// How much is solved.
#[derive(Args, Debug)]
pub struct OrbitSolveArgs {
    /// Steps of time, half of them for each system
    #[arg(long, default_value_t = 120_000)]
    steps: u32,
    /// Threads that solve: one system after the other, or both at once
    #[arg(long, default_value_t = 1, value_parser = clap::value_parser!(u8).range(1..=2))]
    threads: u8,
}

/// Bodies besides the sun.
const BODIES: usize = 8;

#[derive(Clone, Copy)]
struct Body {
    at: [f64; 2],
    speed: [f64; 2],
    mass: f64,
}

/// Solves, and prints by how much the total energy has drifted: a measure of the solver's error.
pub fn run(args: &OrbitSolveArgs) -> io::Result<()> {
    let solve = |steps: u32| {
        let mut bodies = system();
        let before = energy(&bodies);
        (0..steps).for_each(|_| step(&mut bodies, 1e-4));
        (energy(&bodies) / before - 1.0).abs()
    };
    let half = args.steps / 2;
    let (first, second) = match args.threads {
        1 => (solve(half), solve(args.steps - half)),
        _ => std::thread::scope(|scope| {
            let other = scope.spawn(|| solve(args.steps - half));
            (solve(half), other.join().unwrap_or(f64::NAN))
        }),
    };
    let drift = first.max(second);
    writeln!(io::stdout().lock(), "steps {}, energy drift {drift:.3e}", args.steps)
}

/// Returns a sun and bodies on circles about it.
fn system() -> Vec<Body> {
    let body = |number: usize| {
        let radius = 1.0 + 0.4 * number as f64;
        let speed = radius.powf(-0.5);
        Body { at: [radius, 0.0], speed: [0.0, speed], mass: 1e-5 }
    };
    let sun = Body { at: [0.0; 2], speed: [0.0; 2], mass: 1.0 };
    std::iter::once(sun).chain((0..BODIES).map(body)).collect()
}

/// Moves every body by one step of length `dt`: semi-implicit Euler, which keeps energy on average.
fn step(bodies: &mut [Body], dt: f64) {
    for one in 0..bodies.len() {
        let mut pull = [0.0; 2];
        for (other, body) in bodies.iter().enumerate().filter(|(other, _)| *other != one) {
            debug_assert_ne!(one, other);
            let apart = [body.at[0] - bodies[one].at[0], body.at[1] - bodies[one].at[1]];
            let square = apart[0] * apart[0] + apart[1] * apart[1];
            let strength = body.mass / (square * square.sqrt());
            pull = [pull[0] + strength * apart[0], pull[1] + strength * apart[1]];
        }
        let body = &mut bodies[one];
        body.speed = [body.speed[0] + dt * pull[0], body.speed[1] + dt * pull[1]];
    }
    for body in bodies {
        body.at = [body.at[0] + dt * body.speed[0], body.at[1] + dt * body.speed[1]];
    }
}

fn energy(bodies: &[Body]) -> f64 {
    let moving: f64 = bodies
        .iter()
        .map(|body| 0.5 * body.mass * (body.speed[0].powi(2) + body.speed[1].powi(2)))
        .sum();
    let mut bound = 0.0;
    for (place, one) in bodies.iter().enumerate() {
        for other in &bodies[place + 1..] {
            let apart = (one.at[0] - other.at[0]).hypot(one.at[1] - other.at[1]);
            bound -= one.mass * other.mass / apart;
        }
    }
    moving + bound
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn energy_is_kept_and_the_bodies_move() {
        let mut bodies = system();
        let before = energy(&bodies);
        for _ in 0..5_000 {
            step(&mut bodies, 1e-4);
        }
        assert!((energy(&bodies) / before - 1.0).abs() < 1e-3);
        // Half a time unit on the unit circle at unit speed: an angle of 0.5.
        assert!((bodies[1].at[1] - 0.5f64.sin()).abs() < 1e-3, "{:?}", bodies[1].at);
    }
}
