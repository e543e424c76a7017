import type { CodebookQuestion, Condition } from '@/api/client'

/** The condition with which one begins: the first question of which answers can be picked. */
export function firstCondition(questions: CodebookQuestion[]): Condition {
  const q = questions.find((one) => one.conditions[0] === 'any_of') ?? questions[0]
  return q?.conditions[0] === 'any_of' ? { op: 'any_of', question: q.id, answers: [] } : { op: 'answered', question: q?.id ?? 0 }
}
