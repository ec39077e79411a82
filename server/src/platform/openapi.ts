/** The OpenAPI 3.1 document, made from the contract. */
import { z } from 'zod';
import { api } from '@vatline/contract/api';
import { JSON_TYPE, problemSchema, type Endpoint, type RawEndpoint } from '@vatline/contract/endpoint';

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

function operationOf(tag: string, name: string, endpoint: Endpoint | RawEndpoint): unknown {
  const requestBody = bodyOf(endpoint);
  const gives = 'gives' in endpoint ? endpoint.gives : JSON_TYPE;
  return {
    operationId: `${tag}.${name}`,
    tags: [tag],
    summary: endpoint.summary,
    parameters: parametersOf(endpoint),
    ...(requestBody ? { requestBody } : {}),
    responses: {
      200: {
        description: 'The answer',
        content: { [gives]: gives === JSON_TYPE ? { schema: schemaOf(endpoint.response, 'output') } : {} },
      },
      default: {
        description: 'A problem (RFC 9457)',
        content: { 'application/problem+json': { schema: schemaOf(problemSchema, 'output') } },
      },
    },
  };
}

/** A form says in its summary what it holds. */
function bodyOf(endpoint: Endpoint | RawEndpoint): unknown {
  if ('takes' in endpoint)
    return endpoint.takes === 'form'
      ? { required: true, content: { 'multipart/form-data': { schema: { type: 'object' } } } }
      : undefined;
  const schema = schemaOf(endpoint.body, 'input');
  const takesBody =
    endpoint.method !== 'get' &&
    endpoint.method !== 'delete' &&
    JSON.stringify(schema['properties'] ?? schema) !== '{}';
  return takesBody ? { required: true, content: { [JSON_TYPE]: { schema } } } : undefined;
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
