import {
  Extension,
  ExtensionProperty,
  type IProperty,
  type Node,
  type Nullable,
  PropertyType,
  type ReaderContext,
  RefList,
  type WriterContext,
} from '@gltf-transform/core';

/** Name of the open glTF extension by which a node lists its lower levels of detail. */
export const LEVELS = 'MSFT_lod';

interface LowerLevelsData extends IProperty {
  levels: RefList<Node>;
}

interface LowerLevelsJson {
  ids?: number[];
}

/** Lower levels of detail of a node, finest first. */
export class LowerLevels extends ExtensionProperty<LowerLevelsData> {
  static override EXTENSION_NAME = LEVELS;
  declare extensionName: typeof LEVELS;
  declare propertyType: 'LowerLevels';
  declare parentTypes: [PropertyType.NODE];

  protected init(): void {
    this.extensionName = LEVELS;
    this.propertyType = 'LowerLevels';
    this.parentTypes = [PropertyType.NODE];
  }

  protected override getDefaults(): Nullable<LowerLevelsData> {
    return Object.assign(super.getDefaults() as IProperty, { levels: new RefList<Node>() });
  }

  list(): Node[] {
    return this.listRefs('levels');
  }

  add(node: Node): this {
    return this.addRef('levels', node);
  }
}

/** Reads and writes the levels of nodes, so that they are not lost on the way. */
export class LevelsOfDetail extends Extension {
  static override readonly EXTENSION_NAME = LEVELS;
  override readonly extensionName = LEVELS;

  override read(context: ReaderContext): this {
    const { nodes = [] } = context.jsonDoc.json;
    nodes.forEach((json, i) => {
      const ids = (json.extensions?.[LEVELS] as LowerLevelsJson | undefined)?.ids;
      if (!Array.isArray(ids)) return;
      const levels = new LowerLevels(this.document.getGraph());
      // A level that is no node, or the node itself, is left out as damaged.
      for (const id of ids) if (context.nodes[id] && id !== i) levels.add(context.nodes[id]);
      context.nodes[i].setExtension(LEVELS, levels);
    });
    return this;
  }

  override write(context: WriterContext): this {
    for (const node of this.document.getRoot().listNodes()) {
      const levels = node.getExtension<LowerLevels>(LEVELS);
      const json = context.jsonDoc.json.nodes?.[context.nodeIndexMap.get(node) ?? -1];
      if (!levels || !json) continue;
      json.extensions = {
        ...json.extensions,
        [LEVELS]: { ids: levels.list().map((level) => context.nodeIndexMap.get(level)) },
      };
    }
    return this;
  }
}
