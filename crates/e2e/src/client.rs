//! A plain client of the API.

use std::time::Duration;

use anyhow::{Context, bail};
use reqwest::Method;
use reqwest::multipart::{Form, Part};
use serde_json::{Value, json};

/// Talks to one server about one job.
pub struct Client {
    http: reqwest::Client,
    base: String,
    /// The job's id.
    pub job: String,
}

impl Client {
    /// A client with a job of its own.
    ///
    /// # Errors
    /// When the server does not make one.
    pub async fn with_new_job(address: &str) -> anyhow::Result<Self> {
        let mut client = Self { http: reqwest::Client::new(), base: format!("{address}/api/v1"), job: String::new() };
        let (status, made) = client.send(Method::POST, "/jobs", Some(json!({ "name": "test" }))).await?;
        if status != 201 {
            bail!("{status}: {made}");
        }
        client.job = text(&made, "id")?;
        Ok(client)
    }

    /// A client of a job.
    #[must_use]
    pub fn of(address: &str, job: &str) -> Self {
        Self { http: reqwest::Client::new(), base: format!("{address}/api/v1"), job: job.to_owned() }
    }

    /// The same job on another server.
    #[must_use]
    pub fn at(&self, address: &str) -> Self {
        Self { http: self.http.clone(), base: format!("{address}/api/v1"), job: self.job.clone() }
    }

    /// Status and body of any call.
    ///
    /// # Errors
    /// When there is no answer.
    pub async fn send(&self, method: Method, path: &str, body: Option<Value>) -> anyhow::Result<(u16, Value)> {
        let mut request = self.http.request(method, format!("{}{path}", self.base));
        if let Some(body) = body {
            request = request.header("content-type", "application/json").body(body.to_string());
        }
        let answer = request.send().await?;
        let status = answer.status().as_u16();
        Ok((status, serde_json::from_slice(&answer.bytes().await?).unwrap_or(Value::Null)))
    }

    /// The body of a call that must succeed.
    ///
    /// # Errors
    /// When it does not.
    pub async fn get(&self, path: &str) -> anyhow::Result<Value> {
        let (status, body) = self.send(Method::GET, path, None).await?;
        if status == 200 { Ok(body) } else { bail!("{path}: {status} {body}") }
    }

    /// The job with its parts and ledger.
    ///
    /// # Errors
    /// When it cannot be read.
    pub async fn show(&self) -> anyhow::Result<Value> {
        self.get(&format!("/jobs/{}", self.job)).await
    }

    /// The bytes at a path.
    ///
    /// # Errors
    /// When they cannot be had.
    pub async fn bytes(&self, path: &str) -> anyhow::Result<Vec<u8>> {
        let answer = self.http.get(format!("{}{path}", self.base)).send().await?.error_for_status()?;
        Ok(answer.bytes().await?.to_vec())
    }

    /// Sends a file; status and task.
    ///
    /// # Errors
    /// When there is no answer.
    pub async fn upload(&self, name: &str, bytes: Vec<u8>) -> anyhow::Result<(u16, Value)> {
        self.upload_with(name, bytes, &[]).await
    }

    /// As [`Client::upload`], with further fields of the form.
    ///
    /// # Errors
    /// When there is no answer.
    pub async fn upload_with(
        &self,
        name: &str,
        bytes: Vec<u8>,
        fields: &[(&'static str, String)],
    ) -> anyhow::Result<(u16, Value)> {
        let form = Form::new().text("unit", "millimetre").part("file", Part::bytes(bytes).file_name(name.to_owned()));
        let form = fields.iter().fold(form, |form, (name, value)| form.text(*name, value.clone()));
        let answer = self.http.post(format!("{}/jobs/{}/files", self.base, self.job)).multipart(form).send().await?;
        let status = answer.status().as_u16();
        Ok((status, serde_json::from_slice(&answer.bytes().await?).unwrap_or(Value::Null)))
    }

    /// Sends a file and waits until it is a part; gives the task at its end.
    ///
    /// # Errors
    /// When it is refused at once.
    pub async fn bring_in(&self, name: &str, bytes: Vec<u8>) -> anyhow::Result<Value> {
        let (status, task) = self.upload(name, bytes).await?;
        if status != 202 {
            bail!("{status}: {task}");
        }
        self.end_of(&task).await
    }

    /// Asks for something about the job at its present revision (`steps`, `forecasts`, `releases`); gives the task at its
    /// end.
    ///
    /// # Errors
    /// When it is refused at once.
    pub async fn ask(&self, what: &str, mut body: Value) -> anyhow::Result<Value> {
        body["revision"] = self.show().await?["revision"].clone();
        let (status, task) = self.send(Method::POST, &format!("/jobs/{}/{what}", self.job), Some(body)).await?;
        if status != 202 {
            bail!("{status}: {task}");
        }
        self.end_of(&task).await
    }

    /// Waits for a task until `until` holds of it.
    ///
    /// # Errors
    /// When that takes more than two minutes.
    pub async fn wait(&self, task: &Value, until: impl Fn(&Value) -> bool) -> anyhow::Result<Value> {
        let path = format!("/tasks/{}", task["id"]);
        for _ in 0..12_000 {
            let now = self.get(&path).await?;
            if until(&now) {
                return Ok(now);
            }
            tokio::time::sleep(Duration::from_millis(10)).await;
        }
        bail!("the task did not get there")
    }

    /// Waits until a task is over.
    ///
    /// # Errors
    /// When that takes more than two minutes.
    pub async fn end_of(&self, task: &Value) -> anyhow::Result<Value> {
        self.wait(task, |t| matches!(t["state"].as_str(), Some("done" | "failed" | "cancelled"))).await
    }
}

fn text(value: &Value, key: &str) -> anyhow::Result<String> {
    Ok(value[key].as_str().with_context(|| format!("no {key} in {value}"))?.to_owned())
}
