// Lines to the bare server that send what a device's report is as text, at the same pace. Says when all are open.
import WebSocket from 'ws';

const [port, count, seconds] = process.argv.slice(2).map(Number);
const around = { address: '10.1.1.20', uplinks: [], clients: [], leases: [], clock: 1_790_000_000_000, uptime: 12_345 };
const neighbours = [{ port: 'lan', chassis: '02:5a:20:00:00:01', theirPort: '12' }];
const counters = [{ port: 'lan', inOctets: 123_456, outOctets: 654_321 }];
const report = JSON.stringify({ type: 'report', report: { ...around, neighbours, counters } });
const open = () =>
  new Promise((resolve, reject) => {
    const socket = new WebSocket(`ws://127.0.0.1:${port}`, { perMessageDeflate: false });
    socket.once('error', reject);
    socket.once('open', () => {
      const next = () => {
        socket.send(report);
        setTimeout(next, seconds * (900 + Math.random() * 200));
      };
      setTimeout(next, Math.random() * seconds * 1000);
      resolve();
    });
  });
for (let i = 0; i < count; i += 100) await Promise.all(Array.from({ length: Math.min(100, count - i) }, open));
console.log('open');
