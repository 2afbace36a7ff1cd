/* The slice's tick by hand in C: keys, ramp, jump with buffer and coyote time, cut, gravity, swept contact,
 * marks and the trace's row. Compiled with gcc -O3 at bench time, it is what the compiled kernel is held against. */
#include <math.h>

#define SLACK 1e-9
#define FAR 1e30
enum { PRESS = 1, RELEASE = 2, LAUNCH = 4, COYOTE = 8, BUFFERED = 16, CUT = 64, APEX = 128, LAND = 256, BUMP = 512, WALL = 1024,
       LEAVE = 2048, LOST = 16384 };
enum { GROUND, RISE, FALL };

typedef struct {
    double half, height, top_speed, acceleration, friction, turn_acceleration, air_control, air_friction;
    double gravity, fall_factor, terminal_speed, jump_speed, cut_factor, buffer, coyote;
    int cut_hops, spend_grace;
} Tune;
typedef struct { unsigned char left, right, up, down, jump, pressed, released; } Hand;
typedef struct { double left, bottom, right, top; } Solid;
typedef struct {
    long tick; double time, dt, intent_x, intent_y, x, y, vx, vy, ax, ay, speed, since_ground, since_press; long jump, state, marks;
} Row;

static double way_free(const double *solids, int n, int axis, double low, double high, double across_low, double across_high, double d)
{
    double free = FAR;
    for (int i = 0; i < n; i++) {
        const double *s = solids + 4 * i;
        if (s[1 - axis] < across_high - SLACK && s[3 - axis] > across_low + SLACK) {
            double gap = d > 0 ? s[axis] - high : low - s[axis + 2];
            if (gap >= -SLACK && gap < free) free = gap;
        }
    }
    return free;
}

void run(const Tune *p, const double *solids, int n, double x, double y, const Hand *hands, const double *dts, Row *rows, long count)
{
    double vx = 0, vy = 0, since_ground, since_press = INFINITY, time = 0;
    int armed = 0, spent = 0, hop_open = 0, jump_before = 0, state;
    int grounded = way_free(solids, n, 1, y, y, x - p->half, x + p->half, -1) <= SLACK;
    since_ground = grounded ? 0 : INFINITY;
    state = grounded ? GROUND : FALL;
    rows[0] = (Row){.x = x, .y = y, .since_ground = since_ground, .since_press = since_press, .state = state};
    for (long k = 1; k < count; k++) {
        const Hand *hand = hands + k;
        double h = dts[k], vx0 = vx, vy0 = vy;
        int was_grounded = grounded, launched = 0, was_rising = state == RISE;
        long marks = (hand->pressed ? PRESS : 0) | (hand->released ? RELEASE : 0);
        double wx = (double)hand->right - hand->left, wy = (double)hand->up - hand->down;
        double m = sqrt(wx * wx + wy * wy);
        if (m > 1) { wx /= m; wy /= m; }
        if (hand->pressed) { since_press = 0; armed = 1; }
        else if (armed && since_press > p->buffer + SLACK) { armed = 0; marks |= LOST; }
        if (armed && since_ground <= p->coyote + SLACK && !spent) {
            marks |= LAUNCH | (grounded ? 0 : COYOTE) | (since_press > 0 ? BUFFERED : 0);
            vy = p->jump_speed; armed = 0; launched = 1; hop_open = 1;
            if (p->spend_grace) spent = 1;
        }
        if (hop_open && !hand->jump && p->cut_hops && vy > SLACK) { vy *= p->cut_factor; marks |= CUT; hop_open = 0; }
        int airborne = !was_grounded || launched;
        double target = p->top_speed * wx, d;
        if (wx == 0) d = p->friction * (airborne ? p->air_friction : 1) * h;
        else d = (p->turn_acceleration > 0 && vx * wx < 0 ? p->turn_acceleration : p->acceleration) * (airborne ? p->air_control : 1) * h;
        double gap = fabs(target - vx);
        vx = gap <= d + SLACK ? target : vx + copysign(d, target - vx);
        vy -= p->gravity * (vy < -SLACK ? p->fall_factor : 1) * h;
        if (p->terminal_speed > 0 && vy < -p->terminal_speed) vy = -p->terminal_speed;
        if (vy <= SLACK) hop_open = 0;
        double dx = vx * h, dy = vy * h;
        if (dx != 0) {
            double free = way_free(solids, n, 0, x - p->half, x + p->half, y, y + p->height, dx);
            if (free >= fabs(dx)) x += dx;
            else { x += dx > 0 ? free : -free; vx = 0; marks |= WALL; }
        }
        grounded = 0;
        if (dy != 0) {
            double free = way_free(solids, n, 1, y, y + p->height, x - p->half, x + p->half, dy);
            if (free >= fabs(dy)) y += dy;
            else { y += dy > 0 ? free : -free; vy = 0; if (dy > 0) marks |= BUMP; else grounded = 1; }
        }
        if (!grounded && vy <= SLACK && way_free(solids, n, 1, y, y, x - p->half, x + p->half, -1) <= SLACK) { grounded = 1; vy = 0; }
        state = grounded ? GROUND : vy > SLACK ? RISE : FALL;
        if (was_rising && vy <= SLACK) marks |= APEX;
        if (grounded && !was_grounded) marks |= LAND;
        if (was_grounded && !grounded) marks |= LEAVE;
        since_ground = grounded ? 0 : since_ground + h;
        since_press += h;
        if (grounded) { spent = 0; hop_open = 0; }
        time += h;
        rows[k] = (Row){k, time, h, wx, wy, x, y, vx, vy, (vx - vx0) / h, (vy - vy0) / h, sqrt(vx * vx + vy * vy),
                        since_ground, since_press, hand->jump, state, marks};
        jump_before = hand->jump;
    }
    (void)jump_before;
}
