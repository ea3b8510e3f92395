//! A real browser that a test runs: headless Chromium, by the WebDriver protocol (W3C, 2018).

use serde_json::{Value, json};
use std::io::{BufRead, BufReader, Read};
use std::path::Path;
use std::process::{Child, ChildStdout, Command, Stdio};
use tempfile::TempDir;

/// A browser window that nobody sees; it ends with this value.
pub struct Browser {
    driver: Child,
    session: String,
    /// Held, since a driver that can say nothing ends.
    _said: BufReader<ChildStdout>,
    _profile: TempDir,
}

impl Browser {
    /// Starts one with a window of this size.
    pub fn new(size: (u32, u32)) -> Self {
        Self::start(size, true)
    }

    /// Starts one that runs no script of a page.
    pub fn without_script(size: (u32, u32)) -> Self {
        Self::start(size, false)
    }

    fn start((width, height): (u32, u32), script: bool) -> Self {
        let mut driver = Command::new("chromedriver")
            .arg("--port=0")
            .stdin(Stdio::null())
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .expect("chromedriver is there: scripts/test installs it");
        let mut said = BufReader::new(driver.stdout.take().unwrap());
        let port = said
            .by_ref()
            .lines()
            .map_while(Result::ok)
            .find_map(|line| {
                Some(line.split_once("successfully on port ")?.1.trim_end_matches('.').to_owned())
            })
            .expect("it says its port");
        let profile = tempfile::tempdir().unwrap();
        let args = [
            "--headless",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--disable-dev-shm-usage",
            "--force-device-scale-factor=1",
            &format!("--user-data-dir={}", profile.path().display()),
            &format!("--window-size={width},{height}"),
        ];
        let allowed = if script { 1 } else { 2 };
        let wanted = json!({ "capabilities": { "alwaysMatch": {
            "browserName": "chrome",
            "goog:loggingPrefs": { "browser": "ALL", "performance": "ALL" },
            "goog:chromeOptions": {
                "args": args,
                "prefs": { "profile.managed_default_content_settings.javascript": allowed },
            },
        } } });
        let root = format!("http://127.0.0.1:{port}/session");
        let begun = asked("POST", &root, Some(&wanted));
        let id = begun["sessionId"].as_str().unwrap_or_else(|| panic!("no session: {begun}"));
        let browser =
            Self { session: format!("{root}/{id}"), driver, _said: said, _profile: profile };
        // Headless windows have no frame, but their size is of the frame unless it is set anew.
        let metrics =
            json!({ "width": width, "height": height, "deviceScaleFactor": 1, "mobile": false });
        browser.devtools("Emulation.setDeviceMetricsOverride", &metrics);
        browser
    }

    /// Opens a page from a file; what was said and asked for before it is forgotten.
    pub fn open(&self, page: &Path) {
        let _ = (self.log("browser"), self.log("performance"));
        let url = format!("file://{}", page.display());
        self.post("url", &json!({ "url": url }));
    }

    /// Returns what a function body returns in the page.
    pub fn script(&self, body: &str) -> Value {
        self.post("execute/sync", &json!({ "script": body, "args": [] }))
    }

    /// Returns what the developers' interface answers.
    pub fn devtools(&self, command: &str, params: &Value) -> Value {
        self.post("goog/cdp/execute", &json!({ "cmd": command, "params": params }))
    }

    /// Returns what the page wrote to its console since the last call.
    pub fn console(&self) -> Vec<String> {
        self.log("browser").iter().map(|entry| entry["message"].to_string()).collect()
    }

    /// Returns every address that was asked for since the last call.
    pub fn requests(&self) -> Vec<String> {
        let sent = |entry: &Value| {
            let message: Value = serde_json::from_str(entry["message"].as_str()?).ok()?;
            let message = &message["message"];
            let sent = message["method"] == "Network.requestWillBeSent";
            // What the browser shows before it is told what to, it asks for by itself.
            let of = message["params"]["documentURL"].as_str().unwrap_or_default();
            let sent = sent && !of.starts_with("chrome");
            sent.then(|| message["params"]["request"]["url"].as_str().map(str::to_owned)).flatten()
        };
        self.log("performance").iter().filter_map(sent).collect()
    }

    /// Presses and lets go of a key, such as `Tab` or `+`.
    pub fn press(&self, key: &str) {
        let text = if key.chars().count() == 1 { key } else { "" };
        let code = match key {
            "Tab" => 9,
            "Enter" => 13,
            _ => 0,
        };
        for kind in ["keyDown", "keyUp"] {
            let mut event =
                json!({ "type": kind, "key": key, "code": key, "windowsVirtualKeyCode": code });
            if kind == "keyDown" && !text.is_empty() {
                event["text"] = json!(text);
            }
            self.devtools("Input.dispatchKeyEvent", &event);
        }
    }

    /// Moves the mouse to a place in the window.
    pub fn move_to(&self, x: f64, y: f64) {
        self.devtools("Input.dispatchMouseEvent", &json!({ "type": "mouseMoved", "x": x, "y": y }));
    }

    /// Waits until a function body returns true in the page; fails after ten seconds.
    pub fn wait_for(&self, body: &str) {
        let deadline = std::time::Instant::now() + std::time::Duration::from_secs(10);
        while self.script(body) != json!(true) {
            assert!(std::time::Instant::now() < deadline, "never came true: {body}");
            std::thread::sleep(std::time::Duration::from_millis(20));
        }
    }

    fn log(&self, kind: &str) -> Vec<Value> {
        self.post("se/log", &json!({ "type": kind })).as_array().cloned().unwrap_or_default()
    }

    fn post(&self, path: &str, body: &Value) -> Value {
        asked("POST", &format!("{}/{path}", self.session), Some(body))
    }
}

/// Returns the `value` that a driver answers with; an error of its fails the test.
fn asked(method: &str, url: &str, body: Option<&Value>) -> Value {
    let agent: ureq::Agent =
        ureq::Agent::config_builder().http_status_as_error(false).build().into();
    let mut answer = match (method, body) {
        ("DELETE", _) => agent.delete(url).call().unwrap(),
        (_, body) => agent.post(url).send_json(body).unwrap(),
    };
    let (status, answer) = (answer.status(), answer.body_mut().read_json::<Value>().unwrap());
    assert!(status.is_success(), "{url}: {answer}");
    answer["value"].clone()
}

impl Drop for Browser {
    fn drop(&mut self) {
        if !std::thread::panicking() {
            asked("DELETE", &self.session, None);
        }
        let _ = self.driver.kill();
        let _ = self.driver.wait();
    }
}
