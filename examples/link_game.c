/* A game's side of the link to Cinetica in C99, with sockets alone: copy what you need.

   The messages are those of docs/link.md. The character runs on a floor at y = 0 and jumps; put your own in its place:
   what the link needs of a game is between the two lines of stars.

   cc -std=c99 -O2 -o link_game examples/link_game.c && ./link_game [port] [seconds] */
#define _POSIX_C_SOURCE 200809L
#include <arpa/inet.h>
#include <fcntl.h>
#include <math.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <time.h>
#include <unistd.h>

#define TICK_RATE 60.0
#define VERSION 1
enum { LEFT = 1, RIGHT = 2, UP = 4, DOWN = 8, JUMP = 16 };

/* ************************************************************ the game */

static struct { const char *name; double value; int32_t count; } numbers[] = {
    {"top_speed", 7, 0}, {"acceleration", 50, 0}, {"friction", 60, 0}, {"air_control", 1, 0},
    {"gravity", 40, 0}, {"jump_speed", 14, 0},
};
enum { TOP_SPEED, ACCELERATION, FRICTION, AIR_CONTROL, GRAVITY, JUMP_SPEED, NUMBERS };

static struct { double x, y, vx, vy; int grounded, jump_was_held; } body = {0, 0, 0, 0, 1, 0};

static void put_body(double x, double y, double vx, double vy) {
    body.x = x; body.y = y; body.vx = vx; body.vy = vy;
    body.grounded = y <= 0 && vy <= 0;
    body.jump_was_held = 0;
}

static void tick_body(double dt, int keys) {
    int direction = ((keys & RIGHT) != 0) - ((keys & LEFT) != 0), jump = (keys & JUMP) != 0, launches = 0;
    if (jump && !body.jump_was_held && body.grounded) { body.vy = numbers[JUMP_SPEED].value; launches = 1; }
    body.jump_was_held = jump;
    double most = numbers[direction ? ACCELERATION : FRICTION].value * dt;
    if (direction && (launches || !body.grounded)) most *= numbers[AIR_CONTROL].value;
    double gap = direction * numbers[TOP_SPEED].value - body.vx;
    body.vx += gap > most ? most : gap < -most ? -most : gap;
    body.vy -= numbers[GRAVITY].value * dt;
    body.x += body.vx * dt;
    body.y += body.vy * dt;
    body.grounded = body.y <= 0;
    if (body.grounded) { body.y = 0; body.vy = 0; }
}

/* ********************************************************* the messages */

typedef struct { uint8_t bytes[1400]; size_t size; } Packet;

static void put32(Packet *p, uint32_t word) {
    for (int shift = 24; shift >= 0; shift -= 8) p->bytes[p->size++] = (uint8_t)(word >> shift);
}
static void put_text(Packet *p, const char *text) {
    size_t length = strlen(text) + 1;
    memcpy(p->bytes + p->size, text, length);
    p->size += length;
    while (p->size % 4) p->bytes[p->size++] = 0;
}
static void put_double(Packet *p, double value) {
    uint64_t bits;
    memcpy(&bits, &value, 8);
    put32(p, (uint32_t)(bits >> 32));
    put32(p, (uint32_t)bits);
}
static Packet begin(const char *address, const char *types) {
    Packet p = {{0}, 0};
    put_text(&p, address);
    put_text(&p, types);
    return p;
}

/* What has been received, read from the front; `bad` once it ends too early. */
typedef struct { const uint8_t *bytes; size_t size, at; int bad; } Reader;

static uint32_t get32(Reader *r) {
    if (r->at + 4 > r->size) { r->bad = 1; return 0; }
    const uint8_t *b = r->bytes + r->at;
    r->at += 4;
    return (uint32_t)b[0] << 24 | (uint32_t)b[1] << 16 | (uint32_t)b[2] << 8 | b[3];
}
static double get_double(Reader *r) {
    uint64_t high = get32(r), bits = high << 32 | get32(r);
    double value;
    memcpy(&value, &bits, 8);
    return value;
}
static const char *get_text(Reader *r) {
    const char *text = (const char *)r->bytes + r->at;
    const uint8_t *end = r->at < r->size ? memchr(text, 0, r->size - r->at) : NULL;
    if (!end) { r->bad = 1; return ""; }
    r->at = ((size_t)(end - r->bytes) + 4) / 4 * 4;
    return text;
}
static double get_number(Reader *r, char type) {
    if (type == 'd') return get_double(r);
    uint32_t word = get32(r);
    float value;
    memcpy(&value, &word, 4);
    return type == 'f' ? value : (double)(int32_t)word;
}

/* ************************************************************* the link */

typedef struct { int32_t frame, keys; } Hands;

static int sock;
static struct sockaddr_in desk;
static int32_t run, desk_run, frame, row, last_request, take, take_frames, paused;
static double take_rate = 60, game_time, start[4];
static Hands hands[4096];
static int hands_count;
static int32_t next_take;

static void send_packet(Packet p) { (void)!sendto(sock, p.bytes, p.size, 0, (struct sockaddr *)&desk, sizeof desk); }

static void send_int(const char *address, int32_t value) {
    Packet p = begin(address, ",i");
    put32(&p, (uint32_t)value);
    send_packet(p);
}
static void send_hello(void) {
    Packet p = begin("/cinetica/hello", ",isdi");
    put32(&p, VERSION);
    put_text(&p, "Game in C");
    put_double(&p, TICK_RATE);
    put32(&p, (uint32_t)run);
    send_packet(p);
    char types[4 + NUMBERS] = ",ii";
    for (int k = 0; k < NUMBERS; k++) strcat(types, "s");
    p = begin("/cinetica/knows", types);
    put32(&p, 0);
    put32(&p, NUMBERS);
    for (int k = 0; k < NUMBERS; k++) put_text(&p, numbers[k].name);
    send_packet(p);
}
static void send_frame(int keys) {
    Packet p = begin("/cinetica/frame", ",iiiddddddii");
    put32(&p, (uint32_t)++frame);
    put32(&p, (uint32_t)take);
    put32(&p, (uint32_t)row);
    double values[] = {game_time, 1 / TICK_RATE, body.x, body.y, body.vx, body.vy};
    for (int k = 0; k < 6; k++) put_double(&p, values[k]);
    put32(&p, (uint32_t)body.grounded);
    put32(&p, (uint32_t)keys);
    send_packet(p);
}
static void begin_run(void) {
    put_body(start[0], start[1], start[2], start[3]);
    row = 0;
    send_frame(0);
}
static int hands_now(void) {
    int keys = 0;
    if (take)
        for (int k = 0; k < hands_count && hands[k].frame <= (int32_t)(row / TICK_RATE * take_rate + 1e-9); k++)
            keys = hands[k].keys;
    return keys;
}
static void tick(void) {
    int keys = hands_now();
    tick_body(1 / TICK_RATE, keys);
    row++;
    game_time += 1 / TICK_RATE;
    send_frame(keys);
    if (take && row >= take_frames / take_rate * TICK_RATE - 1e-9) take = 0;
}

/* Carries out one of the requests. */
static void request(const char *name, const char *types, Reader *r) {
    if (!strcmp(name, "reset")) {
        for (int k = 0; k < 4; k++) start[k] = get_double(r);
        take = 0;
        begin_run();
    } else if (!strcmp(name, "pause")) {
        paused = (int32_t)get32(r);
    } else if (!strcmp(name, "step")) {
        int32_t ticks = (int32_t)get32(r);
        for (paused = 1; ticks > 0; ticks--) tick();
    } else if (!strcmp(name, "take")) {
        next_take = (int32_t)get32(r);
        take_rate = get_double(r);
        take_frames = (int32_t)get32(r);
        hands_count = 0;
    } else if (!strcmp(name, "hands")) {
        get32(r);
        get32(r);
        /* Behind request, take and place: rows of two integers and four doubles. */
        for (types += 3; types[0] && hands_count < 4096 && !r->bad; types += 6) {
            hands[hands_count].frame = (int32_t)get32(r);
            hands[hands_count++].keys = (int32_t)get32(r);
            for (int k = 0; k < 4; k++) get_double(r);
        }
    } else if (!strcmp(name, "play")) {
        take = next_take;
        paused = 0;
        begin_run();
    }
}

static void receive(Reader r) {
    const char *address = get_text(&r), *types = get_text(&r);
    if (r.bad || strncmp(address, "/cinetica/", 10) || types[0] != ',') return;
    const char *name = address + 10;
    types++;
    if (!strcmp(name, "hello") && !strcmp(types, "isi")) {
        get32(&r);
        get_text(&r);
        int32_t its = (int32_t)get32(&r);
        if (its != desk_run) {
            desk_run = its;
            last_request = 0;
            for (int k = 0; k < NUMBERS; k++) numbers[k].count = 0;
        }
    } else if (!strcmp(name, "ping") && types[0] == 'i') {
        send_int("/cinetica/pong", (int32_t)get32(&r));
    } else if (!strcmp(name, "tune") && types[0] == 'i') {
        send_int("/cinetica/got", (int32_t)get32(&r));
    } else if (!strcmp(name, "number") && !strncmp(types, "is", 2)) {
        int32_t count = (int32_t)get32(&r);
        const char *which = get_text(&r);
        char type = types[2];
        double value = type == 'd' || type == 'f' || type == 'i' ? get_number(&r, type) : 0;
        for (int k = 0; k < NUMBERS && !r.bad; k++)
            /* One that comes late must not undo a newer one. */
            if (!strcmp(which, numbers[k].name) && count > numbers[k].count && strchr("dfi", type)) {
                numbers[k].count = count;
                numbers[k].value = value;
            }
        send_int("/cinetica/got", count);
    } else if (strcmp(name, "took") && strcmp(name, "bye") && types[0] == 'i') {
        int32_t number = (int32_t)get32(&r);
        if (number > last_request) {
            last_request = number;
            request(name, types, &r);
        }
        send_int("/cinetica/done", number);
    }
}

static double now(void) {
    struct timespec t;
    clock_gettime(CLOCK_MONOTONIC, &t);
    return (double)t.tv_sec + 1e-9 * (double)t.tv_nsec;
}

int main(int argc, char **argv) {
    double begun = now(), then = begun, due = 0, said = -1, seconds = argc > 2 ? atof(argv[2]) : 1e9;
    run = (int32_t)(((uint64_t)(begun * 1e6) ^ (uint64_t)getpid() << 12) & 0x7fffffff);
    sock = socket(AF_INET, SOCK_DGRAM, 0);
    if (sock < 0 || fcntl(sock, F_SETFL, O_NONBLOCK) < 0) { perror("socket"); return 1; }
    desk.sin_family = AF_INET;
    desk.sin_port = htons((uint16_t)(argc > 1 ? atoi(argv[1]) : 9471));
    desk.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
    while (now() - begun < seconds) {
        double time = now();
        if (time - said >= 0.25) { said = time; send_hello(); }
        for (;;) {
            uint8_t bytes[2048];
            struct sockaddr_in from;
            socklen_t length = sizeof from;
            ssize_t size = recvfrom(sock, bytes, sizeof bytes, 0, (struct sockaddr *)&from, &length);
            if (size < 0) break;
            if (from.sin_addr.s_addr == desk.sin_addr.s_addr && from.sin_port == desk.sin_port)
                receive((Reader){bytes, (size_t)size, 0, 0});
        }
        due += time - then < 0.25 ? time - then : 0.25;
        then = time;
        for (; due >= 1 / TICK_RATE; due -= 1 / TICK_RATE)
            if (!paused) tick();
        nanosleep(&(struct timespec){0, 1000000}, NULL);
    }
    send_packet(begin("/cinetica/bye", ","));
    return 0;
}
