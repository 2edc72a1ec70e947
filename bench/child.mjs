// Runs one benchmark and sends what it measured to the process that collects them.
const { run } = await import(`./${process.argv[2]}.mjs`);
process.send(await run(), () => process.disconnect());
