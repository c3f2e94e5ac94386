'use client';

import { Box, Flex } from '@chakra-ui/react';
import { factsIn } from '@/core/route/condition';
import { conditionsOf } from '@/core/route/route';
import { FormField } from '../parts/form';
import { FactInput } from './FactInput';
import type { Planning } from './usePlanning';
import { circulationWords } from './words';

const words = circulationWords.plan.facts;

/** The values that the document's type declares: those the route asks for, and those that sending needs, come first. */
export function FactsRow({ planning }: { readonly planning: Planning }) {
  const { view, values, findings, route, editable } = planning;
  if (view.factTypes.length === 0) return null;
  const tested = new Set(conditionsOf(route).flatMap(({ condition }) => factsIn(condition)));
  const rank = (id: string, needed: boolean) => (tested.has(id) ? 0 : needed ? 1 : 2);
  const types = [...view.factTypes].sort((a, b) => rank(a.id, a.needed) - rank(b.id, b.needed));
  return (
    <Flex as="section" aria-label={words.title} gap="16px" flexWrap="wrap" align="flex-start">
      {types.map((type) => {
        const finding = findings.find(
          (one) => one.about === type.id && (one.code === 'fact-missing' || one.code === 'fact-unfit'),
        );
        return (
          <Box key={type.id} w={type.kind === 'person' ? '260px' : '210px'} id={`fact-${type.id}`}>
            <FormField
              label={type.name}
              fault={finding ? (finding.code === 'fact-missing' ? words.missing : words.unfit) : null}
              help={tested.has(type.id) ? words.tested : undefined}
            >
              {(props) =>
                editable ? (
                  <FactInput
                    id={props.id}
                    label={type.name}
                    type={type}
                    value={values[type.id] ?? null}
                    onChange={(value) => planning.setFact(type.id, value)}
                  />
                ) : (
                  <Box />
                )
              }
            </FormField>
          </Box>
        );
      })}
    </Flex>
  );
}
