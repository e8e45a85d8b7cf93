import { describe, expect, test } from 'vitest';
import { nameProblems } from '../src/predict/required.ts';

const names = { slots: ['M_Halt_opaque', 'ShelterGlass'], textures: ['halt_baseColor', 'halt_orm'] };
const problems = (slots: string[], textures: string[] = [], whole = true) =>
  nameProblems({ requiredNames: slots, requiredTextures: textures }, names, whole).map(
    (nameProblem) => nameProblem.message,
  );

describe('required names', () => {
  test('nothing is required: nothing is wrong', () => {
    expect(problems([])).toEqual([]);
  });

  test('patterns and exact names that all fit', () => {
    expect(problems(['M_*', 'ShelterGlass'], ['halt_*'])).toEqual([]);
  });

  test('a name too many, and one that is missing', () => {
    expect(problems(['M_*', 'Ticket'])).toEqual([
      'the slot "ShelterGlass" bears no required name',
      'no slot is called "Ticket", as is required',
    ]);
  });

  test('a texture is only missing once all are known; its name is that of a file', () => {
    expect(problems([], ['halt_*', 'glass pane'], false)).toEqual([]);
    expect(problems([], ['halt_*', 'glass pane'])).toEqual(['no texture is called "glass_pane", as is required']);
  });
});
