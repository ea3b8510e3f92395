//! A report in a real browser: what is seen, reached, read aloud and asked of the network.
//!
//! Runs for about 95 s on one core of two.

use honest_lap_testkit::{Browser, TestEnv};
use serde_json::{Value, json};

const DESK: (u32, u32) = (1280, 800);
const PHONE: (u32, u32) = (390, 844);

/// Returns the demo's lab with its report, `report.html`.
fn reported() -> TestEnv {
    let env = TestEnv::harbour(env!("CARGO_BIN_EXE_lap"));
    env.lap_ok(&["--study", "lab", "report"]);
    env
}

fn opened(env: &TestEnv, browser: &Browser) {
    browser.open(&env.path().join("report.html"));
}

/// Waits until every part is laid out, and unfolds everything that is folded.
fn unfolded(browser: &Browser) {
    browser.wait_for("return !document.querySelector('main > section:not(.laid)')");
    browser.script("document.querySelectorAll('details').forEach(d => d.open = true)");
    browser.script("document.querySelectorAll('.frames').forEach(f => f.scrollIntoView())");
}

#[test]
fn it_asks_nothing_of_the_network_and_has_nothing_to_complain_of() {
    let (env, browser) = (reported(), Browser::new(DESK));
    opened(&env, &browser);
    unfolded(&browser);
    browser.wait_for("return document.querySelectorAll('.frames[data-ready]').length > 0");
    let asked = browser.requests();
    let outside = asked.iter().filter(|url| !url.starts_with("file:") && !url.starts_with("data:"));
    assert_eq!(outside.collect::<Vec<_>>(), Vec::<&String>::new());
    assert!(asked.iter().any(|url| url.ends_with("report.html")), "requests are seen: {asked:?}");
    assert_eq!(browser.console(), Vec::<String>::new());
}

#[test]
fn every_figure_is_seen_whole_at_a_desk_and_on_a_phone_and_on_paper() {
    let env = reported();
    for (size, media) in [(DESK, "screen"), (PHONE, "screen"), ((794, 1123), "print")] {
        let browser = Browser::new(size);
        opened(&env, &browser);
        browser.devtools("Emulation.setEmulatedMedia", &json!({ "media": media }));
        // A wide table counts once it is laid out.
        browser.wait_for("return !document.querySelector('main > section:not(.laid)')");
        let found = browser.script(
            "const boxes = [...document.querySelectorAll('figure')].filter(f => !f.closest('details'))
                 .map(f => [...f.querySelectorAll('svg')].map(s => s.getBoundingClientRect())
                     .filter(b => b.width > 0 && b.height > 0));
             const page = document.documentElement;
             return { figures: boxes.length, seen: boxes.filter(b => b.length === 1).length,
                      wide: page.scrollWidth, window: innerWidth,
                      beyond: [...document.querySelectorAll('body *')].filter(e => !e.closest('.scroll'))
                          .filter(e => e.getBoundingClientRect().right > innerWidth + 1)
                          .map(e => e.tagName + '.' + e.className + ' ' + e.innerText?.slice(0, 40)).slice(0, 5) }",
        );
        assert!(found["figures"].as_u64().unwrap() >= 10, "{found}");
        assert_eq!(found["figures"], found["seen"], "each is drawn once at {size:?}: {found}");
        assert!(found["wide"].as_f64() <= found["window"].as_f64(), "{size:?}: {found}");
    }
}

#[test]
fn a_pass_is_looked_into_by_mouse_and_by_key() {
    let (env, browser) = (reported(), Browser::new(DESK));
    opened(&env, &browser);
    unfolded(&browser);
    let pass = "const f = document.querySelector('.frames'); f.scrollIntoView({ block: 'center', behavior: 'instant' });";
    browser.script(pass);
    browser.wait_for("return document.querySelector('.frames').dataset.ready === 'yes'");
    let fonts = "return [...document.fonts].map(f => f.status).join()";
    assert_eq!(browser.script(fonts), json!("loaded,loaded"), "the page brings its font along");
    let place = browser.script(&format!(
        "{pass} const b = f.querySelector('canvas').getBoundingClientRect();
         return [b.x + b.width / 2, b.y + b.height / 2]"
    ));
    let said = || browser.script("return document.querySelector('.frames output').textContent");
    browser.move_to(place[0].as_f64().unwrap(), place[1].as_f64().unwrap());
    browser.wait_for("return document.querySelector('.frames output').textContent !== ''");
    let hovered = said();
    assert!(hovered.as_str().unwrap().contains(" ms"), "{hovered}");
    // The picture of a pass changes as one comes closer, and is as before when one has gone back.
    let picture = || browser.script("return document.querySelector('.frames canvas').toDataURL()");
    let whole = picture();
    browser.script("document.querySelector('.frames canvas').focus()");
    browser.press("+");
    let closer = picture();
    assert_ne!(whole, closer);
    browser.press("0");
    assert_eq!(picture(), whole);
    browser.press(".");
    assert_ne!(said(), hovered, "the next frame is told");
    browser.script("document.querySelector('.frames button[data-do=in]').click()");
    assert_ne!(picture(), whole);
}

#[test]
fn the_keyboard_reaches_everything() {
    let (env, browser) = (reported(), Browser::new(DESK));
    opened(&env, &browser);
    let reachable = "return [...document.querySelectorAll('a[href], button, summary, canvas, [tabindex=\"0\"]')]
        .filter(e => e.checkVisibility() && !e.disabled).length";
    let all = browser.script(reachable).as_u64().unwrap();
    assert!(all > 30, "{all}");
    browser.script("window.reached = new Set(); document.addEventListener('focusin', e => reached.add(e.target))");
    for _ in 0..all {
        browser.press("Tab");
    }
    assert_eq!(browser.script("return reached.size"), json!(all));
}

#[test]
fn a_way_to_the_laps_opens_them() {
    let (env, browser) = (reported(), Browser::new(DESK));
    opened(&env, &browser);
    browser.script("document.querySelector('.way a').click()");
    browser.wait_for("return !!document.querySelector('details[open]')");
    let text = browser.script("return document.querySelector('details[open]').innerText");
    assert!(text.as_str().unwrap().contains("heron-1.1"), "{text}");
}

#[test]
fn words_stand_out_from_their_ground_in_both_looks() {
    let env = reported();
    let browser = Browser::new(DESK);
    for look in ["light", "dark"] {
        let feature = json!({ "features": [{ "name": "prefers-color-scheme", "value": look }] });
        browser.devtools("Emulation.setEmulatedMedia", &feature);
        opened(&env, &browser);
        unfolded(&browser);
        // Contrast by WCAG 2.2, of every text with the nearest ground behind it.
        let found = browser.script(
            "const parts = c => c.match(/[\\d.]+/g).map(Number);
             const light = c => parts(c).slice(0, 3).map(v => v / 255)
                 .map(v => v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)
                 .reduce((sum, v, i) => sum + v * [0.2126, 0.7152, 0.0722][i], 0);
             const paper = getComputedStyle(document.body).backgroundColor;
             const ground = e => { for (; e; e = e.parentElement) {
                 const c = getComputedStyle(e).backgroundColor;
                 if (parts(c).length === 3 || parts(c)[3] > 0) return c; } return paper; };
             const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
             let least = 99, where = '', texts = 0;
             for (let n; n = walk.nextNode();) {
                 const e = n.parentElement;
                 if (!n.textContent.trim() || !e.checkVisibility() || e.closest('script, title, desc')) continue;
                 const style = getComputedStyle(e), ink = e.closest('svg') ? style.fill : style.color;
                 const [a, b] = [light(ink), light(e.closest('svg') ? paper : ground(e))];
                 const ratio = (Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05);
                 texts += 1;
                 if (ratio < least) { least = ratio; where = n.textContent.trim() + ' ' + ink; }
             }
             return { least, where, texts, paper }",
        );
        assert!(found["texts"].as_u64().unwrap() > 500, "{found}");
        assert!(found["least"].as_f64().unwrap() >= 4.5, "{look}: {found}");
    }
}

#[test]
fn what_is_read_aloud_names_every_figure_and_its_main_finding() {
    let (env, browser) = (reported(), Browser::new(DESK));
    opened(&env, &browser);
    unfolded(&browser);
    let tree = browser.devtools("Accessibility.getFullAXTree", &json!({}));
    let nodes = tree["nodes"].as_array().unwrap();
    let role = |node: &&Value, role: &str| node["role"]["value"] == role;
    let pictures: Vec<&str> = nodes
        .iter()
        .filter(|node| role(node, "image") || role(node, "img"))
        .filter_map(|node| node["name"]["value"].as_str())
        .collect();
    let figures = browser.script(
        "return [...document.querySelectorAll('svg')].filter(s => s.checkVisibility()).length
            + document.querySelectorAll('canvas').length",
    );
    assert_eq!(json!(pictures.len()), figures, "{pictures:?}");
    assert!(pictures.iter().all(|name| name.split(' ').count() > 4), "{pictures:?}");
    for finding in
        ["kestrel faster", "kestrel ahead", "kestrel is ahead", "fly-through", "work over price"]
    {
        assert!(pictures.iter().any(|name| name.contains(finding)), "{finding}: {pictures:?}");
    }
}

#[test]
fn without_script_it_says_the_same_and_stands_still() {
    let (env, browser) = (reported(), Browser::without_script(DESK));
    opened(&env, &browser);
    let seen = browser.devtools(
        "Runtime.evaluate",
        &json!({ "returnByValue": true, "expression":
            "({ svg: document.querySelectorAll('figure svg').length,
                frames: document.querySelector('.frames').hidden,
                buttons: document.querySelectorAll('.race button').length,
                second: document.querySelectorAll('.race progress')[1].value })" }),
    );
    let seen = &seen["result"]["value"];
    assert_eq!((&seen["frames"], &seen["buttons"]), (&json!(true), &json!(0)), "{seen}");
    assert!(seen["svg"].as_u64().unwrap() > 10, "{seen}");
    let second = seen["second"].as_f64().unwrap();
    assert!(second > 0.5 && second < 1.0, "as far as it is when the quickest is done: {seen}");
}

#[test]
fn rigs_race_in_true_proportion() {
    let (env, browser) = (reported(), Browser::new(DESK));
    opened(&env, &browser);
    let shares =
        "const bars = [...document.querySelectorAll('.race')[0].querySelectorAll('progress')];";
    // Of two that are still running, the shares stand to each other as the speeds do. The page looks itself: on a
    // busy machine the race may be over before it is asked.
    browser.script(&format!(
        "{shares} const [a, b] = [bars[0], bars[3]]; window.proportion = null;
         const look = () => {{
             if (a.value > 0.2 && a.value < 1)
                 window.proportion = a.value / b.value / (b.dataset.seconds / a.dataset.seconds);
             else requestAnimationFrame(look);
         }};
         requestAnimationFrame(look);
         document.querySelector('.race button').click()"
    ));
    browser.wait_for("return window.proportion !== null");
    let proportion = browser.script("return window.proportion");
    assert!((proportion.as_f64().unwrap() - 1.0).abs() < 0.01, "{proportion}");
    browser.wait_for(&format!("{shares} return bars.every(bar => bar.value === 1)"));
}

#[test]
fn what_comes_from_outside_is_shown_and_never_run() {
    let evil = "<img src=x onerror=\\\"window.ran=1\\\"><script>window.ran=1</script>";
    let study = format!(
        "[study]\ntitle = \"{evil}\"\nquestion = \"{evil}\"\n[workload.w]\nkind = \"task\"\n\
         about = \"{evil}\"\nby_hand = \"{evil}\"\n[rig.a]\nabout = \"{evil}\"\n[rig.b]\n"
    );
    let env = TestEnv::with_study(env!("CARGO_BIN_EXE_lap"), &study);
    for rig in ["a", "b"] {
        env.lap_ok(&["enter", "w", "--rig", rig, "1.0s", "1.1s", "1.2s", "--by", "<b onclick=x>"]);
    }
    env.lap_ok(&["note", "a-1.1", "<svg onload=window.ran=1>"]);
    env.lap_ok(&["report"]);
    let browser = Browser::new(DESK);
    opened(&env, &browser);
    unfolded(&browser);
    assert_eq!(
        browser.script("return [window.ran ?? 0, document.querySelectorAll('img').length]"),
        json!([0, 0])
    );
    assert_eq!(browser.console(), Vec::<String>::new());
    let title = browser.script("return document.querySelector('h1').textContent");
    assert!(title.as_str().unwrap().contains("<img src=x"), "{title}");
}
