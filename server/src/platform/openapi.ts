/** The OpenAPI 3.1 document, made from the contract. */
import { z } from 'zod';
import { api } from '@vatline/contract/api';
import { problemSchema, type Endpoint } from '@vatline/contract/endpoint';

function schemaOf(schema: z.ZodType, io: 'input' | 'output'): Record<string, unknown> {
  const { $schema: _dialect, ...rest } = z.toJSONSchema(schema, { io, unrepresentable: 'any' }) as Record<
    string,
    unknown
  >;
  return rest;
}

function parametersOf(endpoint: Endpoint): unknown[] {
  const list = (schema: z.ZodType, place: 'path' | 'query') => {
    const { properties = {}, required = [] } = schemaOf(schema, 'input') as {
      properties?: Record<string, unknown>;
      required?: string[];
    };
    return Object.entries(properties).map(([name, type]) => ({
      name,
      in: place,
      required: place === 'path' || required.includes(name),
      schema: type,
    }));
  };
  return [...list(endpoint.params, 'path'), ...list(endpoint.query, 'query')];
}

function operationOf(tag: string, name: string, endpoint: Endpoint): unknown {
  const body = schemaOf(endpoint.body, 'input');
  const takesBody =
    endpoint.method !== 'get' &&
    endpoint.method !== 'delete' &&
    JSON.stringify(body['properties'] ?? body) !== '{}';
  return {
    operationId: `${tag}.${name}`,
    tags: [tag],
    summary: endpoint.summary,
    parameters: parametersOf(endpoint),
    ...(takesBody
      ? { requestBody: { required: true, content: { 'application/json': { schema: body } } } }
      : {}),
    responses: {
      200: {
        description: 'The answer',
        content: { 'application/json': { schema: schemaOf(endpoint.response, 'output') } },
      },
      default: {
        description: 'A problem (RFC 9457)',
        content: { 'application/problem+json': { schema: schemaOf(problemSchema, 'output') } },
      },
    },
  };
}

export function openApiDocument(): Record<string, unknown> {
  const paths: Record<string, Record<string, unknown>> = {};
  for (const [tag, endpoints] of Object.entries(api)) {
    for (const [name, endpoint] of Object.entries(endpoints)) {
      const path = `/api/v1${endpoint.path.replace(/:(\w+)/g, '{$1}')}`;
      (paths[path] ??= {})[endpoint.method] = operationOf(tag, name, endpoint);
    }
  }
  return { openapi: '3.1.0', info: { title: 'Vat Line', version: '1' }, paths };
}
