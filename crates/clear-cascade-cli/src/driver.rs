//! A browser, by the open WebDriver protocol (W3C WebDriver 2): a session of its own, which ends with the question.

use std::time::Duration;

use serde_json::{Value, json};

use crate::failure::Refusal;

/// How long an answer of the driver may take.
const LONGEST: Duration = Duration::from_secs(60);
/// The largest answer, in bytes.
const LARGEST: u64 = 256 << 20;

/// The media query that asks for a preference (Media Queries 5, §12 "User Preference Media Features").
pub(crate) fn query(feature: &str, value: &str) -> String {
    let prefers = matches!(feature, "color-scheme" | "contrast") || feature.starts_with("reduced-");
    format!("({}{feature}: {value})", if prefers { "prefers-" } else { "" })
}

/// A session with a browser.
pub(crate) struct Driver {
    /// The client.
    agent: ureq::Agent,
    /// The URL of the session.
    session: String,
    /// Whether the session is ours, and ends with the question.
    own: bool,
    /// The browser and its version, as it calls itself; empty for a session that was there.
    pub(crate) name: String,
}

impl Driver {
    /// Starts a browser through the driver at a URL, without a window where it can do without; or takes the session at a
    /// URL `…/session/ID`, which stays.
    pub(crate) fn start(driver: &str) -> Result<Self, Refusal> {
        let config =
            ureq::Agent::config_builder().proxy(None).http_status_as_error(false).timeout_global(Some(LONGEST)).build();
        let agent = ureq::Agent::new_with_config(config);
        let base = driver.trim_end_matches('/').to_owned();
        if base.rsplit('/').nth(1) == Some("session") {
            return Ok(Self { agent, session: base, own: false, name: String::new() });
        }
        // Each takes what it knows; one that knows none starts as it is (WebDriver 2, §7.2 "Processing capabilities").
        let first = json!([
            { "goog:chromeOptions": { "args": ["--headless=new"] } },
            { "moz:firefoxOptions": { "args": ["-headless"] } },
            {},
        ]);
        let mut new = Self { agent, session: base, own: false, name: String::new() };
        let started = new.post("/session", &json!({ "capabilities": { "firstMatch": first } })).map_err(|refusal| {
            let hint = "a browser that needs settings can be started first: give the URL of its session, …/session/ID";
            Refusal { hint: Some(hint.to_owned()), ..refusal }
        })?;
        let text = |value: &Value| value.as_str().unwrap_or_default().to_owned();
        let capabilities = &started["capabilities"];
        new.name = format!("{} {}", text(&capabilities["browserName"]), text(&capabilities["browserVersion"]));
        new.session = format!("{}/session/{}", new.session, text(&started["sessionId"]));
        new.own = true;
        Ok(new)
    }

    /// Opens a page and waits until it is loaded.
    pub(crate) fn go(&self, url: &str) -> Result<(), Refusal> {
        self.post("/url", &json!({ "url": url })).map(|_| ())
    }

    /// Gives the window a size in px, as far as it has one.
    pub(crate) fn resize(&self, (width, height): (f64, f64)) -> Result<(), Refusal> {
        self.post("/window/rect", &json!({ "width": width, "height": height })).map(|_| ())
    }

    /// Runs a script in the page; gives what it returns.
    pub(crate) fn run(&self, script: &str, args: &Value) -> Result<Value, Refusal> {
        self.post("/execute/sync", &json!({ "script": script, "args": [args] }))
    }

    /// The same for a script that calls back with what it returns.
    pub(crate) fn run_async(&self, script: &str, args: &Value) -> Result<Value, Refusal> {
        self.post("/execute/async", &json!({ "script": script, "args": [args] }))
    }

    /// Sends a command of the session.
    fn post(&self, path: &str, body: &Value) -> Result<Value, Refusal> {
        let at = format!("{}{path}", self.session);
        let refused = |why: String| Refusal::new(format!("the browser driver at `{at}` cannot be used: {why}"));
        let request = self.agent.post(&at).header("content-type", "application/json; charset=utf-8");
        let mut response = request.send(body.to_string()).map_err(|e| refused(e.to_string()))?;
        let bytes = response.body_mut().with_config().limit(LARGEST).read_to_vec();
        let bytes = bytes.map_err(|e| refused(e.to_string()))?;
        let mut answer: Value =
            serde_json::from_slice(&bytes).map_err(|_| refused("it does not speak WebDriver".to_owned()))?;
        let value = answer["value"].take();
        match (value["error"].as_str(), value["message"].as_str()) {
            (Some(error), message) => {
                let first = message.unwrap_or_default().lines().next().unwrap_or_default();
                Err(refused(format!("{error}: {first}")))
            }
            (None, _) => Ok(value),
        }
    }
}

impl Drop for Driver {
    fn drop(&mut self) {
        // The browser goes; that it would not is no matter of the answer.
        if self.own {
            let _ = self.agent.delete(&self.session).call();
        }
    }
}
