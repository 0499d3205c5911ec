/* The 2 s drop with drag and spin, written for this one scene: what a compiler can make of it.
 * 480 steps of classical Runge-Kutta, contact times by Newton on a shortened step, samples out. */
#include <math.h>

static const double G = 9.80665;

static void rk4(const double *y, double h, double k, double *o) {
    double a1x, a1z, a2x, a2z, a3x, a3z, a4x, a4z, vx = y[2], vz = y[3], s;
    s = k * sqrt(vx * vx + vz * vz); a1x = -s * vx; a1z = -G - s * vz;
    double ux = vx + 0.5 * h * a1x, uz = vz + 0.5 * h * a1z;
    s = k * sqrt(ux * ux + uz * uz); a2x = -s * ux; a2z = -G - s * uz;
    ux = vx + 0.5 * h * a2x; uz = vz + 0.5 * h * a2z;
    s = k * sqrt(ux * ux + uz * uz); a3x = -s * ux; a3z = -G - s * uz;
    ux = vx + h * a3x; uz = vz + h * a3z;
    s = k * sqrt(ux * ux + uz * uz); a4x = -s * ux; a4z = -G - s * uz;
    o[0] = y[0] + h * (vx + h / 6 * (a1x + a2x + a3x));
    o[1] = y[1] + h * (vz + h / 6 * (a1z + a2z + a3z));
    o[2] = vx + h / 6 * (a1x + 2 * (a2x + a3x) + a4x);
    o[3] = vz + h / 6 * (a1z + 2 * (a2z + a3z) + a4z);
}

/* y: x, z, vx, vz. out: count rows of x, z, vx, vz, spin, turn. Returns the number of contacts. */
int drop(const double *start, double spin, double r, double k, double e, double mu, double step, int count, double *out,
         double *hits) {
    double y[4] = {start[0], start[1], start[2], start[3]}, o[4], turn = 0;
    int n = 0;
    for (int i = 0; i < count; i++) {
        double *row = out + 6 * i;
        row[0] = y[0]; row[1] = y[1]; row[2] = y[2]; row[3] = y[3]; row[4] = spin; row[5] = turn;
        double left = step;
        for (int guard = 0; guard < 8; guard++) {
            rk4(y, left, k, o);
            if (o[1] >= r) break;
            double s = left * (y[1] - r) / (y[1] - o[1]);
            for (int j = 0; j < 20; j++) {
                rk4(y, s, k, o);
                double f = o[1] - r;
                if (fabs(f) < 1e-14) break;
                s -= f / o[3];
            }
            turn += spin * s;
            hits[n++] = i * step + step - left + s;
            double slip = o[2] - r * spin, jn = -(1 + e) * o[3], jt = 2.0 / 7 * fabs(slip);
            if (jt > mu * jn) jt = mu * jn;
            if (slip > 0) jt = -jt;
            spin -= jt * 5 / (2 * r);
            y[0] = o[0]; y[1] = r; y[2] = o[2] + jt; y[3] = -e * o[3];
            left -= s;
        }
        turn += spin * left;
        y[0] = o[0]; y[1] = o[1]; y[2] = o[2]; y[3] = o[3];
    }
    return n;
}
