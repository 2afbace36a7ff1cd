// A game's side of the link to Cinetica in JavaScript, for Node, without a library: copy what you need.
//
// The messages are those of docs/link.md. The character runs on a floor at y = 0 and jumps; put your own in its place.
//
//     node examples/link_game.mjs [port] [seconds]

import dgram from "node:dgram";

const ROOT = "/cinetica/";
const VERSION = 1;
const TICK_RATE = 60;
const LEFT = 1, RIGHT = 2, JUMP = 16;

// The game: numbers by the names that the desk sends, and a body.

const numbers = { top_speed: 7, acceleration: 50, friction: 60, air_control: 1, gravity: 40, jump_speed: 14 };
const body = { x: 0, y: 0, vx: 0, vy: 0, grounded: true, jumpWasHeld: false };

function putBody([x, y, vx, vy]) {
  Object.assign(body, { x, y, vx, vy, grounded: y <= 0 && vy <= 0, jumpWasHeld: false });
}

function tickBody(dt, keys) {
  const direction = Number((keys & RIGHT) !== 0) - Number((keys & LEFT) !== 0);
  const jump = (keys & JUMP) !== 0;
  const launches = jump && !body.jumpWasHeld && body.grounded;
  if (launches) body.vy = numbers.jump_speed;
  body.jumpWasHeld = jump;
  let most = (direction ? numbers.acceleration : numbers.friction) * dt;
  if (direction && (launches || !body.grounded)) most *= numbers.air_control;
  const gap = direction * numbers.top_speed - body.vx;
  body.vx += Math.max(-most, Math.min(most, gap));
  body.vy -= numbers.gravity * dt;
  body.x += body.vx * dt;
  body.y += body.vy * dt;
  body.grounded = body.y <= 0;
  if (body.grounded) Object.assign(body, { y: 0, vy: 0 });
}

// The messages: Open Sound Control 1.0.

function padded(text) {
  const bytes = Buffer.from(`${text}\0`);
  return Buffer.concat([bytes, Buffer.alloc((4 - (bytes.length % 4)) % 4)]);
}

function encode(name, types = "", ...values) {
  const parts = [padded(ROOT + name), padded(`,${types}`)];
  values.forEach((value, place) => {
    if (types[place] === "s") return parts.push(padded(value));
    const room = Buffer.alloc(types[place] === "d" ? 8 : 4);
    if (types[place] === "d") room.writeDoubleBE(value);
    else room.writeInt32BE(value);
    return parts.push(room);
  });
  return Buffer.concat(parts);
}

function decode(bytes) {
  let at = 0;
  const text = () => {
    const end = bytes.indexOf(0, at);
    if (end < 0) throw new RangeError("a text without an end");
    const found = bytes.toString("utf8", at, end);
    at = (Math.floor(end / 4) + 1) * 4;
    return found;
  };
  const take = { s: text };
  take.i = () => bytes.readInt32BE((at += 4) - 4);
  take.f = () => bytes.readFloatBE((at += 4) - 4);
  take.d = () => bytes.readDoubleBE((at += 8) - 8);
  take.T = () => true;
  take.F = () => false;
  const address = text(), types = text().slice(1);
  return [address.slice(ROOT.length), [...types].map((type) => take[type]())];
}

// The link.

const port = Number(process.argv[2] ?? 9471);
const seconds = Number(process.argv[3] ?? 1e9);
const socket = dgram.createSocket("udp4");
const run = 1 + Math.floor(Math.random() * (2 ** 31 - 2));
const counts = new Map();
let deskRun = 0, lastRequest = 0, frame = 0, row = 0, take = 0, paused = false, time = 0;
let start = [0, 0, 0, 0], coming = { take: 0, rate: 60, frames: 0, rows: [] }, played = coming;

const send = (...message) => socket.send(encode(...message), port, "127.0.0.1");

function sendFrame(keys) {
  frame += 1;
  send("frame", "iiiddddddii", frame, take, row, time, 1 / TICK_RATE, body.x, body.y, body.vx, body.vy,
    Number(body.grounded), keys);
}

function begin() {
  putBody(start);
  row = 0;
  sendFrame(0);
}

function handsNow() {
  if (!take) return 0;
  const at = Math.floor((row / TICK_RATE) * played.rate + 1e-9);
  return played.rows.filter(([first]) => first <= at).at(-1)?.[1] ?? 0;
}

function tick() {
  const keys = handsNow();
  tickBody(1 / TICK_RATE, keys);
  row += 1;
  time += 1 / TICK_RATE;
  sendFrame(keys);
  if (take && row >= (played.frames / played.rate) * TICK_RATE - 1e-9) take = 0;
}

const requests = {
  solids() {},
  reset(x, y, vx, vy) {
    start = [x, y, vx, vy];
    take = 0;
    begin();
  },
  pause(on) {
    paused = on !== 0;
  },
  step(ticks) {
    paused = true;
    for (let left = ticks; left > 0; left -= 1) tick();
  },
  take(number, rate, frames) {
    coming = { take: number, rate, frames, rows: [] };
  },
  hands(number, first, ...values) {
    for (let at = 0; at + 6 <= values.length; at += 6) coming.rows.push(values.slice(at, at + 2));
  },
  play(number) {
    played = coming;
    take = number;
    paused = false;
    begin();
  },
};

const messages = {
  hello(version, name, itsRun) {
    if (itsRun === deskRun) return;
    // A desk that has begun anew counts from 1 again.
    deskRun = itsRun;
    lastRequest = 0;
    counts.clear();
  },
  ping: (number) => send("pong", "i", number),
  tune: (count) => send("got", "i", count),
  number(count, name, value) {
    // One that comes late must not undo a newer one.
    if (count > (counts.get(name) ?? 0)) {
      counts.set(name, count);
      if (name in numbers && typeof value === "number") numbers[name] = value;
    }
    send("got", "i", count);
  },
  took() {},
  bye() {},
};

socket.on("message", (bytes, from) => {
  if (from.port !== port || from.address !== "127.0.0.1") return;
  let name, values;
  try {
    [name, values] = decode(bytes);
  } catch {
    return;
  }
  if (name in messages) {
    messages[name](...values);
  } else if (name in requests) {
    const [number, ...rest] = values;
    if (number > lastRequest) {
      lastRequest = number;
      requests[name](...rest);
    }
    send("done", "i", number);
  }
});
socket.on("error", () => {});

const names = Object.keys(numbers);
const hello = () => {
  send("hello", "isdi", VERSION, "Game in JavaScript", TICK_RATE, run);
  send("knows", `ii${"s".repeat(names.length)}`, 0, names.length, ...names);
};
socket.bind(0, "127.0.0.1", () => {
  const begun = performance.now();
  let then = begun, due = 0;
  hello();
  setInterval(hello, 250);
  setInterval(() => {
    const now = performance.now();
    due += Math.min((now - then) / 1000, 0.25);
    then = now;
    for (; due >= 1 / TICK_RATE; due -= 1 / TICK_RATE) if (!paused) tick();
    if (now - begun > 1000 * seconds) socket.send(encode("bye"), port, "127.0.0.1", () => process.exit(0));
  }, 2);
});
