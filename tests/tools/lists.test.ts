import { describe, expect, it } from "vitest";
import { editList, readIdsIn } from "../../src/edit/index.ts";

describe("a list that is edited", () => {
  it.each<[string, string, string, string | undefined, object, string]>([
    ["lines", "ids.txt", "A-1\n\n A-2 \nA-3", undefined, { add: ["A-4", "A-1"], drop: ["A-2"] }, "A-1\n\nA-3\nA-4\n"],
    ["lines of another system", "ids.txt", "A-1\r\nA-2\r\n", undefined, { add: ["A-3"] }, "A-1\r\nA-2\r\nA-3\r\n"],
    [
      "a first column",
      "ids.csv",
      "id,name\nA-1,Oda\nA-2,Bo\n",
      undefined,
      { add: ["A-3"], drop: ["A-1"] },
      "id,name\nA-2,Bo\nA-3,\n",
    ],
    [
      "a column among others, quoted names that hold commas, breaks and quotes",
      "ids.csv",
      'name,id,note\n"Oda, the\nfirst",A-1,"said ""yes"""\n\nBo , A-2 ,\n',
      "id",
      { add: ['A "3"'], drop: ["A-2"] },
      'name,id,note\n"Oda, the\nfirst",A-1,"said ""yes"""\n\n,"A ""3""",\n',
    ],
    ["a header alone", "ids.csv", "id", undefined, { add: ["A-1"] }, "id\nA-1\n"],
    [
      "letters of two bytes before what is cut",
      "ids.csv",
      "name,id\nÅsa,A-1\nØrn,A-2\nLi,A-3\n",
      "id",
      { drop: ["A-2"] },
      "name,id\nÅsa,A-1\nLi,A-3\n",
    ],
  ])("keeps every other byte: %s", (_, file, before, column, change, after) => {
    expect(editList(file, before, column, change).text).toBe(after);
  });

  it("says what came of each id, and what cannot be edited", () => {
    const counts = editList("ids.txt", "A-1\nA-2\n", undefined, { add: ["A-1", "A-3", "A-3"], drop: ["A-2", "A-9"] });
    expect(counts).toMatchObject({ added: 1, doubled: 2, dropped: 1 });
    expect(() => editList("ids.csv", 'id\n"A-1\n', undefined, { add: ["x"] })).toThrow(/ids.csv is not valid CSV/);
    expect(() => editList("ids.csv", "id\nA-1\n", "number", { add: ["x"] })).toThrow(/has no column “number”/);
  });
});

it("reads ids as they are pasted: lines, commas, semicolons, tabs", () => {
  const none = { doubled: 0, unreadable: 0, columns: [] };
  expect(readIdsIn("A-1\n\n A-2\r\nA-1")).toMatchObject({ ...none, ids: ["A-1", "A-2"], doubled: 1 });
  for (const text of [
    "C-12,C-204",
    "C-12, C-204,\n",
    "C-12\tC-204",
    "C-12;\nC-204",
    "C-12,C-204\nC-12,C-204",
    "id\nC-12\nC-204",
    "C-12\nC-204",
  ])
    expect([text, readIdsIn(text)]).toMatchObject([text, { unreadable: 0, columns: [], ids: ["C-12", "C-204"] }]);
  expect(readIdsIn("id;name\nA-1;Oda\n;Bo\n")).toMatchObject({
    ...none,
    ids: ["A-1"],
    unreadable: 1,
    columns: ["id", "name"],
    column: "id",
    read: [
      { text: "id", is: "heading" },
      { text: "A-1", is: "id" },
      { text: "", is: "unreadable" },
    ],
  });
  // A table without a heading loses no line, and the column of the ids is found.
  expect(readIdsIn("Oda,A-17\nBo,A-18\n")).toMatchObject({
    ids: ["A-17", "A-18"],
    columns: ["column 1", "column 2"],
    column: "column 2",
  });
  expect(readIdsIn("Oda,A-17\nBo,A-18\n", "column 1").ids).toEqual(["Oda", "Bo"]);
  expect(readIdsIn('name\tid\n"a\nb"\tA-7\n', "id")).toMatchObject({ ids: ["A-7"], columns: ["name", "id"] });
  expect(readIdsIn('id,name\n"A-1,Oda\n').ids).toEqual([]);
  expect(readIdsIn("")).toMatchObject({ ...none, ids: [] });
});
