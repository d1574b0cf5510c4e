import { createServer, STATUS_CODES, type Server } from 'node:http';
import type { Socket } from 'node:net';
import { PROBLEM } from '@plinket/contract';
import type { Express } from 'express';

/** What Node's own parser refuses is told as a problem, too. */
function refuse(error: Error & { code?: string }, socket: Socket): void {
  if (error.code === 'ECONNRESET' || !socket.writable) return void socket.destroy();
  const status = error.code === 'HPE_HEADER_OVERFLOW' ? 431 : error.code === 'ERR_HTTP_REQUEST_TIMEOUT' ? 408 : 400;
  const body = JSON.stringify({ type: 'about:blank', title: STATUS_CODES[status], status });
  socket.end(
    `HTTP/1.1 ${status} ${STATUS_CODES[status]}\r\nContent-Type: ${PROBLEM}\r\nContent-Length: ${Buffer.byteLength(body)}\r\nConnection: close\r\n\r\n${body}`,
  );
}

/** A server whose sockets cannot be held by who says nothing, or says it one letter a minute. */
export function serverOf(
  app: Express,
  { headersMs = 10_000, requestMs = 300_000, idleMs = 60_000, answerMs = 300_000, checkMs = 1000 } = {},
): Server {
  const server = createServer({ headersTimeout: headersMs, requestTimeout: requestMs, connectionsCheckingInterval: checkMs }, app);
  server.keepAliveTimeout = idleMs;
  // a file may wait for others to be read before it is answered
  server.setTimeout(answerMs);
  server.maxConnections = 1000;
  server.on('clientError', refuse);
  return server;
}
